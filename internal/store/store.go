// Package store keeps the site in PostgreSQL: it loads the published Site, saves drafts as they are made, publishes
// all of a draft or nothing, and follows what other instances publish. It decides nothing about what visitors see.
package store

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strconv"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	_ "github.com/jackc/pgx/v5/stdlib" // registers the driver "pgx"
	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/care"
	"vineladder/internal/core/site"
	"vineladder/internal/core/weblink"
)

// A Store is one instance's view of the database. It is safe for concurrent use.
type Store struct {
	db  *sqlx.DB
	url string
	log *slog.Logger

	published atomic.Pointer[Published]
	loading   sync.Mutex // one load at a time

	drafts   sync.Mutex // guards open
	open     map[int64]*Draft
	watchers watchers
	planned  chan struct{} // something changed in what is planned
	members  members

	careful sync.Mutex // guards care, dead and pasts
	care    *care.Known
	careIs  careVersion
	dead    *weblink.Known
	pasts   []keptPast

	unprepared *sqlx.DB // on which no statement is prepared
}

// Published is the newest published revision that this instance has seen.
type Published struct {
	Revision int64
	Site     *site.Site
}

// Open connects and loads the published Site.
func Open(ctx context.Context, url string, log *slog.Logger) (*Store, error) {
	db, err := sqlx.Open("pgx", url)
	if err != nil {
		return nil, fmt.Errorf("open database: %w", err)
	}
	db.SetMaxOpenConns(16)
	db.SetConnMaxIdleTime(5 * time.Minute)
	st := &Store{db: db, url: url, log: log, open: map[int64]*Draft{}, planned: make(chan struct{}, 1)}
	if st.unprepared, err = unprepared(url); err != nil {
		db.Close()
		return nil, err
	}
	if err := st.CatchUp(ctx); err != nil {
		st.Close()
		return nil, err
	}
	return st, nil
}

// Close lets the connections go.
func (st *Store) Close() error { return errors.Join(st.db.Close(), st.unprepared.Close()) }

// DB is the connection pool, for what lives beside the Site (sessions).
func (st *Store) DB() *sqlx.DB { return st.db }

// Ping asks the database whether it answers.
func (st *Store) Ping(ctx context.Context) error { return st.db.PingContext(ctx) }

// Published gives the newest revision seen. It never blocks.
func (st *Store) Published() *Published { return st.published.Load() }

// channel is the name under which publications are announced; the message is the revision.
const channel = "vineladder_published"

// draftChannel is the name under which changes of drafts are announced to those who share them; the message is the
// draft.
const draftChannel = "vineladder_draft"

// Follow catches up at each publication of another instance, until ctx ends. A lost connection is made again, and what
// was missed is caught up with.
func (st *Store) Follow(ctx context.Context) {
	for ctx.Err() == nil {
		if err := st.listen(ctx); err != nil && ctx.Err() == nil {
			st.log.Warn("listening for publications was interrupted", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
}

func (st *Store) listen(ctx context.Context) error {
	conn, err := pgx.Connect(ctx, st.url)
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, "LISTEN "+channel+"; LISTEN "+plannedChannel+"; LISTEN "+draftChannel+
		"; LISTEN "+peopleChannel+"; LISTEN "+hereChannel); err != nil {
		return err
	}
	st.members.hear(true)
	defer st.members.hear(false)
	for {
		if err := st.CatchUp(ctx); err != nil {
			return err
		}
		news, err := nextNews(ctx, conn)
		if err != nil {
			return err
		}
		for news.Channel == peopleChannel {
			st.members.forget(news.Payload)
			if news, err = nextNews(ctx, conn); err != nil {
				return err
			}
		}
		switch id, _ := strconv.ParseInt(news.Payload, 10, 64); news.Channel {
		case plannedChannel:
			st.wake()
		case draftChannel:
			st.watchers.tell(News{Draft: id})
		case hereChannel:
			var at News
			if _, err := fmt.Sscan(news.Payload, &at.Here, &at.Who); err == nil {
				st.watchers.tell(at)
			}
		}
	}
}

// aliveEvery is how often an instance makes sure that it would hear.
const aliveEvery = time.Second

// nextNews waits for the next notification. While there is none it makes sure that the connection stands, so that one
// which was lost without a word is noticed.
func nextNews(ctx context.Context, conn *pgx.Conn) (*pgconn.Notification, error) {
	for {
		within, cancel := context.WithTimeout(ctx, aliveEvery)
		news, err := conn.WaitForNotification(within)
		cancel()
		if err == nil || ctx.Err() != nil || !pgconn.Timeout(err) {
			return news, err
		}
		within, cancel = context.WithTimeout(ctx, aliveEvery)
		err = conn.Ping(within)
		cancel()
		if err != nil {
			return nil, err
		}
	}
}

// News is what a watcher is told: a new revision, a draft that somebody has changed, or a page that somebody came to
// or left, and who.
type News struct{ Revision, Draft, Here, Who int64 }

// watchers are told after each new revision and each change of a draft.
type watchers struct {
	sync.Mutex
	next  int
	chans map[int]chan News
}

// watcherBacklog is the news that wait for a slow reader; the oldest are dropped, since a reader looks at the whole
// anyway.
const watcherBacklog = 16

// Watch gives a channel that receives news, and a function that ends it.
func (st *Store) Watch() (<-chan News, func()) {
	w := &st.watchers
	w.Lock()
	defer w.Unlock()
	if w.chans == nil {
		w.chans = map[int]chan News{}
	}
	id, ch := w.next, make(chan News, watcherBacklog)
	w.next++
	w.chans[id] = ch
	return ch, func() {
		w.Lock()
		defer w.Unlock()
		delete(w.chans, id)
	}
}

// tell never waits: a reader that is slow loses its oldest news, and one that takes them meanwhile is not waited for.
func (w *watchers) tell(news News) {
	w.Lock()
	defer w.Unlock()
	for _, ch := range w.chans {
		select {
		case ch <- news:
			continue
		default:
		}
		select {
		case <-ch:
		default:
		}
		select {
		case ch <- news: // only tell sends, under the lock: there is room
		default:
		}
	}
}
