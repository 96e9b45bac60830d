// Package localpg runs a PostgreSQL server of the project's own on loopback: it finds Debian's programs, makes a
// cluster, starts it as an unprivileged user and stops it. It knows nothing of what the databases hold.
package localpg

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// ErrMissing is a machine without PostgreSQL's server programs.
var ErrMissing = errors.New(
	"PostgreSQL's server is not installed; run “apt-get install postgresql” (or “make demo”, which does)",
)

// A Server is a running cluster. Close stops it.
type Server struct {
	dir      string
	port     int
	password string
	bin      string
	owner    *syscall.Credential
	settings []string

	sync.Mutex
	process *os.Process
	done    chan struct{}
}

// Start runs the cluster in dir, making it first if it is not there. A cluster that an earlier program left running is
// taken over. Extra settings are given as "name=value".
func Start(ctx context.Context, dir string, settings ...string) (*Server, error) {
	bin, err := findPrograms()
	if err != nil {
		return nil, err
	}
	dir, err = filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	owner, err := unprivileged()
	if err != nil {
		return nil, err
	}
	s := &Server{dir: dir, done: make(chan struct{}), bin: bin, owner: owner, settings: settings}
	if err := s.prepare(ctx, bin, owner); err != nil {
		return nil, err
	}
	if s.takeOver(ctx) {
		return s, nil
	}
	if s.port, err = freePort(); err != nil {
		return nil, err
	}
	if err := s.run(); err != nil {
		return nil, err
	}
	return s, s.wait(ctx)
}

// Keep starts the server again whenever it ends, at the same address, until ctx ends. told hears of each end and of
// what keeps it from starting.
func (s *Server) Keep(ctx context.Context, told func(what string, err error)) {
	const first, last = time.Second, 30 * time.Second
	for pause := first; ; {
		if s.hasEnded() {
			told("PostgreSQL has ended and is started again", nil)
			err := s.run()
			if err == nil {
				err = s.wait(ctx)
			}
			if pause = first; err != nil {
				told("PostgreSQL can't be started; it is tried again", err)
				pause = min(2*pause, last)
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(pause):
		}
	}
}

func (s *Server) hasEnded() bool {
	process, done := s.running()
	select {
	case <-done:
		return true
	default:
	}
	return process.Signal(syscall.Signal(0)) != nil
}

// running gives the server's process, and what is closed when it ends, if this program started it.
func (s *Server) running() (*os.Process, <-chan struct{}) {
	s.Lock()
	defer s.Unlock()
	return s.process, s.done
}

// URL is the address of one database of the cluster.
func (s *Server) URL(database string) string {
	u := url.URL{
		Scheme: "postgres", User: url.UserPassword("vineladder", s.password),
		Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(s.port)), Path: "/" + database, RawQuery: "sslmode=disable",
	}
	return u.String()
}

// PID is the server's process.
func (s *Server) PID() int {
	process, _ := s.running()
	return process.Pid
}

// Close shuts the cluster down in order and waits for its end.
func (s *Server) Close() error {
	process, done := s.running()
	if err := process.Signal(syscall.SIGINT); err != nil && !errors.Is(err, os.ErrProcessDone) {
		return fmt.Errorf("stop PostgreSQL: %w", err)
	}
	deadline := time.After(30 * time.Second)
	for {
		select {
		case <-done:
			return nil
		case <-deadline:
			return fmt.Errorf("stop PostgreSQL: process %d is still there after 30 seconds", process.Pid)
		case <-time.After(20 * time.Millisecond):
			if process.Signal(syscall.Signal(0)) != nil {
				return nil
			}
		}
	}
}

// CreateDatabase makes a database if there is none of that name.
func (s *Server) CreateDatabase(ctx context.Context, name string) error {
	conn, err := pgx.Connect(ctx, s.URL("postgres"))
	if err != nil {
		return fmt.Errorf("connect to PostgreSQL: %w", err)
	}
	defer conn.Close(ctx)
	var exists bool
	if err := conn.QueryRow(ctx, `SELECT EXISTS (SELECT FROM pg_database WHERE datname = $1)`,
		name).Scan(&exists); err != nil ||
		exists {
		return err
	}
	_, err = conn.Exec(ctx, `CREATE DATABASE `+pgx.Identifier{name}.Sanitize()+` TEMPLATE template0 ENCODING 'UTF8'`)
	return err
}

// findPrograms gives the folder of the newest server programs on the machine.
func findPrograms() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	slices.SortFunc(found, func(a, b string) int { return version(b) - version(a) })
	if len(found) > 0 {
		return filepath.Dir(found[0]), nil
	}
	if path, err := exec.LookPath("postgres"); err == nil {
		return filepath.Dir(path), nil
	}
	return "", ErrMissing
}

func version(program string) int {
	n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(program))))
	return n
}

// unprivileged gives the user to run the server as: nil for the caller, Debian's "postgres" where the caller is root,
// under whom PostgreSQL refuses to run.
func unprivileged() (*syscall.Credential, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, fmt.Errorf("PostgreSQL can't run as root and there is no user “postgres”: %w", ErrMissing)
	}
	uid, _ := strconv.ParseUint(u.Uid, 10, 32)
	gid, _ := strconv.ParseUint(u.Gid, 10, 32)
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

func (s *Server) prepare(ctx context.Context, bin string, owner *syscall.Credential) error {
	if err := os.MkdirAll(s.dir, 0o755); err != nil {
		return err
	}
	if owner != nil {
		if err := os.Chown(s.dir, int(owner.Uid), int(owner.Gid)); err != nil {
			return err
		}
		if err := canReach(s.dir, owner); err != nil {
			return err
		}
	}
	secret := s.passwordFile()
	if stored, err := os.ReadFile(secret); err == nil {
		s.password = strings.TrimSpace(string(stored))
		return nil
	}
	key := make([]byte, 16)
	_, _ = rand.Read(key) // never fails
	s.password = hex.EncodeToString(key)
	if err := s.initialise(ctx, bin, owner); err != nil {
		return err
	}
	return os.WriteFile(secret, []byte(s.password), 0o600)
}

func (s *Server) passwordFile() string { return filepath.Join(s.dir, "password") }
func (s *Server) data() string         { return filepath.Join(s.dir, "data") }

// canReach says in a sentence why PostgreSQL's user could not enter the folder.
func canReach(dir string, owner *syscall.Credential) error {
	for at := filepath.Dir(dir); ; at = filepath.Dir(at) {
		info, err := os.Stat(at)
		if err != nil {
			return err
		}
		if stat, ok := info.Sys().(*syscall.Stat_t); ok && info.Mode().Perm()&0o001 == 0 && stat.Uid != owner.Uid {
			return fmt.Errorf(
				"PostgreSQL's user can't enter %s; allow it with “chmod a+x %s” or keep the project elsewhere",
				at,
				at,
			)
		}
		if at == filepath.Dir(at) {
			return nil
		}
	}
}

func (s *Server) initialise(ctx context.Context, bin string, owner *syscall.Credential) error {
	// Left over from a start that was cut off before the password was written: nothing in it can be reached.
	if err := os.RemoveAll(s.data()); err != nil {
		return err
	}
	secret := filepath.Join(s.dir, "initial-password")
	if err := os.WriteFile(secret, []byte(s.password), 0o600); err != nil {
		return err
	}
	defer os.Remove(secret)
	if owner != nil {
		if err := os.Chown(secret, int(owner.Uid), int(owner.Gid)); err != nil {
			return err
		}
	}
	cmd := exec.CommandContext(
		ctx,
		filepath.Join(bin, "initdb"),
		"-D",
		s.data(),
		"-U",
		"vineladder",
		"-E",
		"UTF8",
		"--locale=C.UTF-8",
		"--auth=scram-sha-256",
		"--pwfile="+secret,
	)
	cmd.Dir = s.dir
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: owner}
	if said, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("make the PostgreSQL cluster in %s: %w: %s", s.data(), err, bytes.TrimSpace(said))
	}
	return nil
}

// takeOver finds a server that already runs on the cluster.
func (s *Server) takeOver(ctx context.Context) bool {
	stored, err := os.ReadFile(filepath.Join(s.data(), "postmaster.pid"))
	if err != nil {
		return false
	}
	lines := strings.Split(string(stored), "\n")
	if len(lines) < 4 {
		return false
	}
	pid, _ := strconv.Atoi(lines[0])
	s.port, _ = strconv.Atoi(lines[3])
	s.process, err = os.FindProcess(pid)
	if err != nil || s.process.Signal(syscall.Signal(0)) != nil {
		return false
	}
	conn, err := pgx.Connect(ctx, s.URL("postgres"))
	if err != nil {
		return false
	}
	return conn.Close(ctx) == nil
}

func (s *Server) run() error {
	args := []string{
		"-D",
		s.data(),
		"-c",
		"listen_addresses=127.0.0.1",
		"-c",
		"port=" + strconv.Itoa(s.port),
		"-c",
		"unix_socket_directories=",
	}
	for _, setting := range s.settings {
		args = append(args, "-c", setting)
	}
	logs, err := os.OpenFile(filepath.Join(s.dir, "postgres.log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	defer logs.Close()
	cmd := exec.Command(filepath.Join(s.bin, "postgres"), args...)
	cmd.Dir, cmd.Stdout, cmd.Stderr = s.dir, logs, logs
	// A process group of its own: Ctrl+C in the terminal reaches us, and we stop PostgreSQL after our last query.
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: s.owner, Setpgid: true}
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("start PostgreSQL: %w", err)
	}
	done := make(chan struct{})
	s.Lock()
	s.process, s.done = cmd.Process, done
	s.Unlock()
	go func() { _ = cmd.Wait(); close(done) }()
	return nil
}

func (s *Server) wait(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, 60*time.Second)
	defer cancel()
	_, done := s.running()
	for {
		conn, err := pgx.Connect(ctx, s.URL("postgres"))
		if err == nil {
			return conn.Close(ctx)
		}
		select {
		case <-done:
			return fmt.Errorf("PostgreSQL stopped while starting; %s says why", filepath.Join(s.dir, "postgres.log"))
		case <-ctx.Done():
			return fmt.Errorf(
				"PostgreSQL does not answer after 60 seconds; %s says why: %w",
				filepath.Join(s.dir, "postgres.log"),
				err,
			)
		case <-time.After(50 * time.Millisecond):
		}
	}
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}
