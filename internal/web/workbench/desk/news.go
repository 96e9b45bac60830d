package desk

import (
	"context"
	"fmt"
	"net/http"
	"strconv"
	"time"
)

// heartbeat keeps the connection of the news open through proxies that end silent ones.
const heartbeat = 25 * time.Second

// slowReader is how long a piece of news may take to be read; who takes longer is cut off, and asks again.
const slowReader = 20 * time.Second

// news tells the screen, as server-sent events, of each publication and of each change of the draft that it shows. The
// screen asks for its parts again; nothing is decided here. What it says is the number of the revision or of the
// draft's version, so that a screen which shows it already, since the edit was its own, stays as it is.
func (s *Server) news(w http.ResponseWriter, r *http.Request) {
	draft, _ := strconv.ParseInt(r.FormValue("draft"), 10, 64)
	control := http.NewResponseController(w)
	open := s.streams.begin(Who(r).ID, s.Sessions.Token(r.Context()))
	defer s.gone(open)
	w.Header().Set("Content-Type", "text/event-stream")
	w.WriteHeader(http.StatusOK)
	watch, end := s.Store.Watch()
	defer end()
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for {
		if err := control.SetWriteDeadline(time.Now().Add(slowReader)); err != nil {
			s.Log.Warn("news can't be kept open", "error", err)
		}
		if err := control.Flush(); err != nil {
			return
		}
		select {
		case <-r.Context().Done():
			return
		case <-s.closing:
			return
		case <-open.over:
			return
		case <-beat.C:
			if alive, err := s.Sessions.Alive(r.Context()); err == nil && !alive {
				return // it ended at another instance, or with the account's other sessions
			}
			fmt.Fprint(w, ": still here\n\n")
			if err := s.Store.StayHere(r.Context(), Who(r).ID); err != nil {
				s.Log.Warn("a screen can't say that it is still open", "error", err)
			}
		case news := <-watch:
			if news.Here != 0 && news.Who == Who(r).ID {
				continue // they know where they are
			}
			if news.Here != 0 {
				fmt.Fprintf(w, "event: here\ndata: %d\n\n", news.Here)
				continue
			}
			if news.Draft == 0 {
				fmt.Fprintf(w, "event: published\ndata: %d\n\n", news.Revision)
				continue
			}
			if news.Draft != draft {
				continue
			}
			if d, err := s.Store.Draft(r.Context(), draft); err == nil && d.IsFor(Who(r).ID) {
				fmt.Fprintf(w, "event: draft\ndata: %d\n\n", d.Version)
			}
		}
	}
}

// reopening is how long a screen may take to come back, as it does when it is loaded again.
const reopening = 5 * time.Second

// gone ends a stream. Who has no other after a while has left the page that they had open.
func (s *Server) gone(from *stream) {
	s.streams.end(from)
	time.AfterFunc(reopening, func() {
		select {
		case <-s.closing: // it is found gone soon
			return
		default:
		}
		if s.streams.has(from.account) {
			return
		}
		if err := s.Store.Leave(context.Background(), from.account); err != nil {
			s.Log.Warn("a screen can't say that it was closed", "error", err)
		}
	})
}

// Others says that the person has the selected page open, and names those who have it open as well.
func (s *Server) Others(r *http.Request, d *Desk) ([]string, error) {
	if err := s.Store.BeAt(r.Context(), d.Who.ID, d.Selected); err != nil {
		return nil, err
	}
	if err := s.Store.Opened(r.Context(), d.Who.ID, d.Selected); err != nil {
		return nil, err
	}
	return s.Store.Here(r.Context(), d.Selected, d.Who.ID)
}
