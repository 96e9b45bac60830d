package store

import (
	"encoding/hex"
	"strconv"
	"sync"
	"time"

	"vineladder/internal/clock"
)

// peopleChannel tells of sessions that ended and accounts that changed: triggers of the database speak on it, so
// whatever changes them is told.
const peopleChannel = "vineladder_people"

// memoryLasts is how long a session is remembered without being looked up again: that writes down that it was used.
const memoryLasts = time.Minute

// memoryLimit bounds the sessions that are remembered; beyond it all are forgotten, and looked up again.
const memoryLimit = 50_000

// members remembers which sessions are whose, while this instance hears what ends them. What it does not hear, or has
// not heard for a while, it does not remember.
type members struct {
	lock      sync.RWMutex
	listening bool
	mark      int64 // rises with all that is forgotten
	sessions  map[string]member
	accounts  map[int64]map[string]bool
}

type member struct {
	site    string
	account Account
	until   time.Time
}

// PeopleMark says how far the instance has heard of people; Remember asks whether it has heard more since.
func (st *Store) PeopleMark() int64 {
	st.members.lock.RLock()
	defer st.members.lock.RUnlock()
	return st.members.mark
}

// Remember keeps that a session is an account's, as was found out after a mark; expiry is the session's own.
func (st *Store) Remember(site, token string, a Account, expiry time.Time, mark int64) {
	m := &st.members
	m.lock.Lock()
	defer m.lock.Unlock()
	if !m.listening || m.mark != mark {
		return
	}
	if len(m.sessions) >= memoryLimit {
		m.forgetAll()
	}
	until := clock.Now().Add(memoryLasts)
	if !expiry.IsZero() && expiry.Before(until) {
		until = expiry
	}
	key := hex.EncodeToString(hashOf(token))
	m.sessions[key] = member{site, a, until}
	if m.accounts[a.ID] == nil {
		m.accounts[a.ID] = map[string]bool{}
	}
	m.accounts[a.ID][key] = true
}

// Recall gives whose a session is, if that is remembered.
func (st *Store) Recall(site, token string) (Account, bool) {
	m := &st.members
	m.lock.RLock()
	defer m.lock.RUnlock()
	found, known := m.sessions[hex.EncodeToString(hashOf(token))]
	if !known || found.site != site || !clock.Now().Before(found.until) {
		return Account{}, false
	}
	return found.account, true
}

// hear begins to remember, or ends it, when the instance has lost what it hears by.
func (m *members) hear(on bool) {
	m.lock.Lock()
	defer m.lock.Unlock()
	m.listening = on
	m.forgetAll()
}

func (m *members) forgetAll() {
	m.mark++
	m.sessions, m.accounts = map[string]member{}, map[int64]map[string]bool{}
}

// forget takes what is told of people: “s” and the hash of a session, or “a” and the number of an account.
func (m *members) forget(told string) {
	m.lock.Lock()
	defer m.lock.Unlock()
	m.mark++
	if told == "" {
		return
	}
	switch key := told[1:]; told[0] {
	case 's':
		delete(m.sessions, key)
	case 'a':
		id, _ := strconv.ParseInt(key, 10, 64) // the database wrote it
		for session := range m.accounts[id] {
			delete(m.sessions, session)
		}
		delete(m.accounts, id)
	}
}

// forgetAccount forgets the sessions of an account at once, where this instance has changed it.
func (m *members) forgetAccount(id int64) { m.forget("a" + strconv.FormatInt(id, 10)) }
