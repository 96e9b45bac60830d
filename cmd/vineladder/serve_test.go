package main

import (
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A hundred who ask for much and read nothing hold nothing for ever: each of them is cut off, and others are served.
func TestSlowReadersAreCutOff(t *testing.T) {
	const readers = 100
	cut := make(chan error, readers)
	chunk := make([]byte, 1<<20)
	server := serverOf(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path != "/large" {
			_, _ = w.Write([]byte("small"))
			return
		}
		var err error
		for sent := 0; err == nil && sent < 1<<10; sent++ {
			_, err = w.Write(chunk)
		}
		cut <- err
	}), 500*time.Millisecond, slog.New(slog.DiscardHandler))
	l, err := net.Listen("tcp4", "127.0.0.1:0")
	require.NoError(t, err)
	var group sync.WaitGroup
	group.Go(func() { _ = server.Serve(l) })
	for range readers {
		conn, err := net.Dial("tcp4", l.Addr().String())
		require.NoError(t, err)
		defer conn.Close()
		_, err = fmt.Fprintf(conn, "GET /large HTTP/1.1\r\nHost: x\r\n\r\n")
		require.NoError(t, err)
	}
	answer, err := http.Get("http://" + l.Addr().String() + "/small")
	require.NoError(t, err)
	answer.Body.Close()
	for range readers {
		assert.Error(t, <-cut)
	}
	require.NoError(t, server.Close())
	group.Wait()
}
