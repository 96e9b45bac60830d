package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
)

// An Approval is that somebody asks for a draft to be published, and where that stands.
type Approval struct {
	Draft      int64
	By         int64
	Name       string
	At         time.Time
	Note       string
	Steps      int64 // the newest step there was
	Answered   time.Time
	AnsweredBy string
	Answer     string
}

// Waits says whether nobody has answered yet.
func (a *Approval) Waits() bool { return a != nil && a.Answered.IsZero() }

type approvalRow struct {
	Draft      int64          `db:"draft_id"`
	By         int64          `db:"asked_by"`
	Name       string         `db:"name"`
	At         time.Time      `db:"asked_at"`
	Note       string         `db:"note"`
	Steps      int64          `db:"steps"`
	Answered   sql.NullTime   `db:"answered_at"`
	AnsweredBy sql.NullString `db:"answered_name"`
	Answer     string         `db:"answer"`
}

const approvalQuery = `SELECT p.draft_id, p.asked_by, a.name, p.asked_at, p.note, p.steps, p.answered_at,
	b.name AS answered_name, p.answer
	FROM approvals p JOIN accounts a ON a.id = p.asked_by LEFT JOIN accounts b ON b.id = p.answered_by `

func (r approvalRow) made() *Approval {
	return &Approval{
		r.Draft, r.By, r.Name, r.At, r.Note, r.Steps, r.Answered.Time, r.AnsweredBy.String, r.Answer,
	}
}

// approvalOf reads where a draft stands; nil if nobody asked.
func approvalOf(ctx context.Context, q sqlx.QueryerContext, draft int64) (*Approval, error) {
	var row approvalRow
	err := sqlx.GetContext(ctx, q, &row, approvalQuery+`WHERE p.draft_id = $1`, draft)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read the approval: %w", err)
	}
	return row.made(), nil
}

// Asked gives the drafts for which somebody waits for approval, the oldest first.
func (st *Store) Asked(ctx context.Context) ([]*Approval, error) {
	var rows []approvalRow
	err := st.db.SelectContext(ctx, &rows, approvalQuery+`JOIN drafts d ON d.id = p.draft_id
		WHERE p.answered_at IS NULL AND d.thrown_at IS NULL ORDER BY p.asked_at`)
	if err != nil {
		return nil, fmt.Errorf("list approvals: %w", err)
	}
	all := make([]*Approval, len(rows))
	for i, row := range rows {
		all[i] = row.made()
	}
	return all, nil
}

// noteLimit bounds what is said of a draft, in bytes.
const noteLimit = 2000

func note(typed string) (string, error) {
	typed = strings.TrimSpace(strings.ToValidUTF8(typed, ""))
	if len(typed) > noteLimit {
		return "", &edit.Refusal{Sentence: fmt.Sprintf("A note can have %d characters at most.", noteLimit)}
	}
	return typed, nil
}

// touchDraft changes what is said of a draft, not what is in it, under its lock.
func (st *Store) touchDraft(ctx context.Context, id int64, do func(*sqlx.Tx, *Draft) error) error {
	return st.inTx(ctx, func(tx *sqlx.Tx) error {
		d, err := st.lockDraft(ctx, tx, id, st.published.Load())
		if err != nil {
			return err
		}
		if err := do(tx, d); err != nil {
			return err
		}
		if _, err = tx.ExecContext(ctx, `UPDATE drafts SET version = version + 1 WHERE id = $1`, id); err != nil {
			return err
		}
		return tellDraft(ctx, tx, id)
	})
}

// AskApproval asks those who may publish a draft to do so; they get a letter at their addresses.
func (st *Store) AskApproval(ctx context.Context, id int64, by Account, typed, link string) error {
	said, err := note(typed)
	if err != nil {
		return err
	}
	return st.touchDraft(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		switch {
		case !d.IsFor(by.ID):
			return ErrNoDraft
		case len(d.Held) > 0:
			return ErrHeld
		case len(d.Steps) == 0:
			return ErrNothing
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO approvals (draft_id, asked_by, note, steps) VALUES ($1, $2, $3, $4)
			ON CONFLICT (draft_id) DO UPDATE SET asked_by = $2, asked_at = now(), note = $3, steps = $4,
				answered_by = NULL, answered_at = NULL, answer = ''`, id, by.ID, said, d.Steps[len(d.Steps)-1].ID)
		if err != nil {
			return fmt.Errorf("ask for approval: %w", err)
		}
		lines, err := accountLines(ctx, tx)
		if err != nil {
			return err
		}
		for _, a := range lines {
			if a.Email == "" || !a.Disabled.IsZero() || a.ID == by.ID || !publishable(d, a.Account, lines).Yes {
				continue
			}
			body := fmt.Sprintf("%s asks for “%s” to be published (%d edits).\n\n%s\n\nLook at it here:\n\n%%s\n", by.Name,
				d.Name, len(d.Steps), said)
			if _, err := tx.ExecContext(ctx, `INSERT INTO outbox (recipient, subject, body, link) VALUES ($1, $2, $3, $4)`,
				a.Email, by.Name+" asks for approval", strings.ReplaceAll(body, "%%s", "%s"), link); err != nil {
				return fmt.Errorf("write a letter: %w", err)
			}
		}
		return nil
	})
}

// SendBack answers who asked for approval: not so, and why.
func (st *Store) SendBack(ctx context.Context, id int64, by Account, typed string) error {
	said, err := note(typed)
	switch {
	case err != nil:
		return err
	case said == "":
		return &edit.Refusal{Sentence: "Say what is to be changed, so that they know."}
	}
	return st.touchDraft(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		if !d.Asked.Waits() {
			return &edit.Refusal{Sentence: "Nobody waits for approval of this draft any more."}
		}
		_, err := tx.ExecContext(ctx, `UPDATE approvals SET answered_by = $2, answered_at = now(), answer = $3
			WHERE draft_id = $1`, id, by.ID, said)
		return err
	})
}

// Withdraw takes back that approval was asked for.
func (st *Store) Withdraw(ctx context.Context, id int64, by Account) error {
	return st.touchDraft(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		if !d.IsFor(by.ID) {
			return ErrNoDraft
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM approvals WHERE draft_id = $1`, id)
		return err
	})
}

// A Remark is what a colleague says of a draft, or of one edit in it.
type Remark struct {
	Step sql.NullInt64 `db:"step_id"`
	Name string        `db:"name"`
	At   time.Time     `db:"at"`
	Said string        `db:"said"`
}

// remarksLimit bounds what is said of one draft.
const remarksLimit = 200

// Remark says something of a draft, or of the edit with a number in it.
func (st *Store) Remark(ctx context.Context, id int64, by Account, step int64, typed string) error {
	said, err := note(typed)
	if err != nil || said == "" {
		return err
	}
	return st.touchDraft(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT count(*) FROM remarks WHERE draft_id = $1`, id); err != nil {
			return err
		}
		if n >= remarksLimit {
			return &edit.Refusal{Sentence: fmt.Sprintf("There are %d remarks on this draft; no more fit.", remarksLimit)}
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO remarks (draft_id, step_id, account_id, said)
			VALUES ($1, nullif($2, 0), $3, $4)`, id, step, by.ID, said)
		return err
	})
}

// Remarks gives what was said of a draft, in order.
func (st *Store) Remarks(ctx context.Context, id int64) ([]Remark, error) {
	var all []Remark
	err := st.db.SelectContext(ctx, &all, `SELECT r.step_id, a.name, r.at, r.said
		FROM remarks r JOIN accounts a ON a.id = r.account_id WHERE r.draft_id = $1 ORDER BY r.id`, id)
	if err != nil {
		return nil, fmt.Errorf("read the remarks: %w", err)
	}
	return all, nil
}
