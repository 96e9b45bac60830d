package public

import (
	"context"
	"fmt"
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
)

// textsLimit bounds the texts that are kept in memory, in bytes.
const textsLimit = 64 << 20

// keptTexts keeps the texts that were read last. A text is named by its hash, so what is kept is never stale; and pages
// whose text is at hand go on being made while the database is gone.
type keptTexts struct {
	from Texts
	sync.Mutex
	kept *simplelru.LRU[string, string]
	size int
}

func keepTexts(from Texts) (*keptTexts, error) {
	k := &keptTexts{from: from}
	kept, err := simplelru.NewLRU(1<<20, func(_, text string) { k.size -= len(text) })
	if err != nil {
		return nil, fmt.Errorf("keep texts: %w", err)
	}
	k.kept = kept
	return k, nil
}

// Texts gives texts by their hashes; those that are not at hand are read in one query.
func (k *keptTexts) Texts(ctx context.Context, hashes []string) (map[string]string, error) {
	found := make(map[string]string, len(hashes))
	var missing []string
	k.Lock()
	for _, hash := range hashes {
		if text, is := k.kept.Get(hash); is {
			found[hash] = text
		} else {
			missing = append(missing, hash)
		}
	}
	k.Unlock()
	if len(missing) == 0 {
		return found, nil
	}
	read, err := k.from.Texts(ctx, missing)
	if err != nil {
		return nil, err
	}
	k.Lock()
	defer k.Unlock()
	for hash, text := range read {
		found[hash] = text
		if !k.kept.Contains(hash) {
			k.kept.Add(hash, text)
			k.size += len(text)
		}
	}
	for k.size > textsLimit {
		k.kept.RemoveOldest()
	}
	return found, nil
}
