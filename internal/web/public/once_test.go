package public

import (
	"context"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"runtime"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/demo"
	"vineladder/internal/store/storetest"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
)

// slowTexts counts how often it is asked, and answers when all have asked who will.
type slowTexts struct {
	texts Texts
	asked atomic.Int32
	ready chan struct{}
}

func (s *slowTexts) Texts(ctx context.Context, hashes []string) (map[string]string, error) {
	s.asked.Add(1)
	<-s.ready
	return s.texts.Texts(ctx, hashes)
}

// A page that many ask for at once, and that nobody asked for before, is made once.
func TestAPageThatManyAskForIsMadeOnce(t *testing.T) {
	st := storetest.New(t)
	require.NoError(t, demo.Load(context.Background(), st))
	built, err := assets.New()
	require.NoError(t, err)
	s, err := New(
		st,
		Settings{Origin: "http://harbour.example", Hosts: []string{"harbour.example"}},
		built,
		gate.NewSigner([]byte("key")),
		slog.New(slog.DiscardHandler),
	)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	slow := &slowTexts{texts: s.Renderer.texts, ready: make(chan struct{})}
	s.Renderer.texts = slow
	var group sync.WaitGroup
	var asking atomic.Int32
	bodies := make([]string, 40)
	for i := range bodies {
		group.Go(func() {
			answer := httptest.NewRecorder()
			asking.Add(1)
			s.Handler().ServeHTTP(answer, httptest.NewRequest(http.MethodGet, "http://harbour.example/harbours", nil))
			assert.Equal(t, http.StatusOK, answer.Code)
			bodies[i] = answer.Body.String()
		})
	}
	for slow.asked.Load() == 0 || asking.Load() < 40 {
		runtime.Gosched()
	}
	close(slow.ready)
	group.Wait()
	for _, body := range bodies {
		assert.Equal(t, bodies[0], body)
	}
	assert.Less(t, slow.asked.Load(), int32(10), "who came while it was made waited for it")
}
