package main

import (
	"context"
	"os"
	"sync"
	"sync/atomic"
	"time"
)

// A command that is interrupted has this long to end by itself. After that it is ended: all that commands do to a
// database they do in one transaction, so nothing is half done.
const patience = 900 * time.Millisecond

// interrupted is the exit status of a program that was ended by Ctrl+C (common practice, no source).
const interrupted = 130

// inOrder is set by commands that stop in order, which takes longer: servers end the requests that they have.
var inOrder atomic.Bool

// unfinished are the files that a command is writing and that go if it is ended.
var unfinished sync.Map // name -> nothing

// endSoon ends the program some time after ctx has ended.
func endSoon(ctx context.Context) {
	context.AfterFunc(ctx, func() {
		if inOrder.Load() {
			return
		}
		time.Sleep(patience)
		unfinished.Range(func(name, _ any) bool {
			_ = os.Remove(name.(string)) // nobody reads it any more
			return true
		})
		os.Exit(interrupted)
	})
}

// writeWhole makes a file that is there whole or not at all, and never in place of another.
func writeWhole(name string, write func(*os.File) error) (err error) {
	part := name + ".part"
	out, err := os.OpenFile(part, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	unfinished.Store(part, nil)
	defer func() { _ = os.Remove(part); unfinished.Delete(part) }() // its second name, or what there is of it
	if err := write(out); err != nil {
		_ = out.Close()
		return err
	}
	if err := out.Sync(); err != nil {
		return err
	}
	if err := out.Close(); err != nil {
		return err
	}
	return os.Link(part, name)
}
