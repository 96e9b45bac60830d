package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"fmt"
)

// NewSetupLink makes the secret part of a link behind which an empty site is set up. Its hash alone is kept.
func (st *Store) NewSetupLink(ctx context.Context) (string, error) {
	secret := make([]byte, 24)
	if _, err := rand.Read(secret); err != nil {
		return "", err
	}
	token := base64.RawURLEncoding.EncodeToString(secret)
	sum := sha256.Sum256([]byte(token))
	if _, err := st.db.ExecContext(ctx, `INSERT INTO setup_links (hash) VALUES ($1)`, sum[:]); err != nil {
		return "", fmt.Errorf("keep the link to set the site up: %w", err)
	}
	return token, nil
}

// IsSetupLink says whether a link was made by NewSetupLink and is not used up.
func (st *Store) IsSetupLink(ctx context.Context, token string) (is bool, err error) {
	sum := sha256.Sum256([]byte(token))
	if err := st.db.GetContext(ctx, &is, `SELECT EXISTS (SELECT FROM setup_links WHERE hash = $1)`, sum[:]); err != nil {
		return false, fmt.Errorf("look for the link: %w", err)
	}
	return is, nil
}

// EndSetup uses all links up.
func (st *Store) EndSetup(ctx context.Context) error {
	if _, err := st.db.ExecContext(ctx, `DELETE FROM setup_links`); err != nil {
		return fmt.Errorf("use the links up: %w", err)
	}
	return nil
}

// Zones gives the names of time zones to choose from.
func (st *Store) Zones(ctx context.Context) ([]string, error) {
	var names []string
	if err := st.db.SelectContext(ctx, &names, `SELECT name FROM pg_timezone_names
		WHERE name ~ '^[A-Z][A-Za-z_]+/' OR name = 'UTC' ORDER BY name`); err != nil {
		return nil, fmt.Errorf("list time zones: %w", err)
	}
	return names, nil
}
