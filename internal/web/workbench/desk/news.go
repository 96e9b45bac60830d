package desk

import (
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
	defer s.streams.end(open)
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
		case news := <-watch:
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
