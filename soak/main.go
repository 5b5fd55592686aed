// Command soak starts the server on a fresh data folder, lets two windows edit it and many
// readers watch it, kills it again and again, fills its disk, and counts what was lost. It is a
// test that takes as long as it is told; its figures stand in docs/reliability.md.
package main

import (
	"bufio"
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"
)

// settings are what is asked of a soak.
type settings struct {
	program  string
	length   time.Duration
	readers  int
	every    time.Duration // between kills
	keepData bool
}

// tally counts what happened. Edits are acknowledged when the server has answered them.
type tally struct {
	acknowledged, refused, unanswered, reads, kills, runs atomic.Int64
	slowest                                               atomic.Int64 // ns, of an edit that was answered
}

func main() {
	var s settings
	flag.StringVar(&s.program, "program", "bin/saltkettle", "the server")
	flag.DurationVar(&s.length, "for", 5*time.Minute, "how long")
	flag.IntVar(&s.readers, "readers", 200, "how many watch")
	flag.DurationVar(&s.every, "kill", 5*time.Second, "time between kills")
	flag.BoolVar(&s.keepData, "keep", false, "keep the data folder")
	flag.Parse()
	if err := run(&s); err != nil {
		fmt.Fprintln(os.Stderr, "soak:", err)
		os.Exit(1)
	}
}

// server is a process of the program on a folder.
type server struct {
	program, dir, listen string
	mu                   sync.Mutex
	cmd                  *exec.Cmd
}

var linkPattern = regexp.MustCompile(`http://(127\.0\.0\.1:\d+)/`)

// start starts the process and waits until it answers.
func (p *server) start() error {
	cmd := exec.Command(p.program, "serve", "--no-key", "--data", p.dir, "--listen", p.listen)
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	var said strings.Builder
	cmd.Stderr = &said
	if err := cmd.Start(); err != nil {
		return err
	}
	in := bufio.NewScanner(out)
	for in.Scan() {
		if f := linkPattern.FindStringSubmatch(in.Text()); f != nil {
			p.mu.Lock()
			p.cmd, p.listen = cmd, f[1]
			p.mu.Unlock()
			go func() { _, _ = io.Copy(io.Discard, out) }()
			return nil
		}
	}
	_ = cmd.Wait()
	return fmt.Errorf("the server did not start: %s", said.String())
}

// kill ends the process at once, as a crash does.
func (p *server) kill() {
	p.mu.Lock()
	cmd := p.cmd
	p.mu.Unlock()
	_ = cmd.Process.Kill()
	_ = cmd.Wait()
}

func (p *server) end() error {
	_ = p.cmd.Process.Signal(syscall.SIGTERM)
	return p.cmd.Wait()
}

func (p *server) url(path string) string { return "http://" + p.listen + path }

func run(s *settings) error {
	dir, err := os.MkdirTemp("", "saltkettle-soak-")
	if err != nil {
		return err
	}
	if !s.keepData {
		defer os.RemoveAll(dir)
	}
	p := &server{program: s.program, dir: filepath.Join(dir, "data"), listen: "127.0.0.1:0"}
	if err := p.start(); err != nil {
		return err
	}
	model, err := create(p)
	if err != nil {
		return err
	}
	var t tally
	ctx, cancel := context.WithTimeout(context.Background(), s.length)
	defer cancel()
	var wg sync.WaitGroup
	written := make([][]string, 2) // names of parameters that windows were told are there
	for w := range written {
		wg.Go(func() { written[w] = edit(ctx, p, model, w, &t) })
	}
	for range s.readers {
		wg.Go(func() { watch(ctx, p, model, &t) })
	}
	wg.Go(func() { solve(ctx, p, model, &t) })
	for ctx.Err() == nil {
		select {
		case <-ctx.Done():
		case <-time.After(s.every/2 + time.Duration(rand.Int64N(int64(s.every)))):
			p.kill()
			t.kills.Add(1)
			if err := p.start(); err != nil {
				return err
			}
		}
	}
	wg.Wait()
	lost, err := missing(p, model, slices.Concat(written...))
	if err != nil {
		return err
	}
	if err := p.end(); err != nil {
		return fmt.Errorf("the server did not end well: %w", err)
	}
	order, err := exec.Command(s.program, "doctor", "--data", p.dir).CombinedOutput()
	fmt.Printf("%s: %d kills, %d edits acknowledged, %d refused, %d unanswered, slowest %d ms, %d events read by %d readers, %d runs begun\n", s.length, t.kills.Load(), t.acknowledged.Load(),
		t.refused.Load(), t.unanswered.Load(), t.slowest.Load()/1e6, t.reads.Load(), s.readers, t.runs.Load())
	fmt.Printf("lost: %d of %d acknowledged edits\n", len(lost), t.acknowledged.Load())
	fmt.Print(string(order))
	if err != nil {
		return fmt.Errorf("the data folder is not in order: %w", err)
	}
	if len(lost) > 0 {
		return fmt.Errorf("lost: %s", strings.Join(lost, ", "))
	}
	return full(s, dir)
}

var client = &http.Client{Timeout: 20 * time.Second, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}

// post sends a form as a window does.
func post(p *server, path string, form url.Values, window string) (int, string, http.Header, error) {
	r, err := http.NewRequest(http.MethodPost, p.url(path), strings.NewReader(form.Encode()))
	if err != nil {
		return 0, "", nil, err
	}
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Header.Set("HX-Request", "true")
	r.Header.Set("Kettle-Window", window)
	answer, err := client.Do(r)
	if err != nil {
		return 0, "", nil, err
	}
	defer answer.Body.Close()
	body, err := io.ReadAll(answer.Body)
	return answer.StatusCode, string(body), answer.Header, err
}

// create makes a model of a demo device.
func create(p *server) (string, error) {
	status, body, head, err := post(p, "/models", url.Values{"demo": {"pan-floor"}}, "")
	if err != nil || status != http.StatusSeeOther {
		return "", fmt.Errorf("no model could be made: %d %s %w", status, body, err)
	}
	return strings.TrimSuffix(head.Get("Location"), "/"), nil
}

var added = regexp.MustCompile(`parameters/(a\d+)/name`)

// edit adds parameters and gives them names of the window's own, which nothing takes away.
func edit(ctx context.Context, p *server, model string, window int, t *tally) (written []string) {
	name := fmt.Sprintf("window%d", window)
	for n := 0; ctx.Err() == nil; n++ {
		to := fmt.Sprintf("w%dn%d", window, n)
		began := time.Now()
		status, _, head, err := post(p, model+"/edit", url.Values{"op": {"add-parameter"}}, name)
		found := added.FindStringSubmatch(head.Get("HX-Trigger-After-Swap"))
		if err != nil || status != http.StatusOK || found == nil {
			t.count(status, err)
			continue
		}
		t.took(began)
		status, _, _, err = post(p, model+"/edit", url.Values{"op": {"set"}, "place": {"parameters/" + found[1] + "/name"}, "value": {to}}, name)
		if err != nil || status != http.StatusOK {
			t.count(status, err)
			continue
		}
		t.acknowledged.Add(1)
		written = append(written, to)
		if n%20 == 19 { // the model stays small: what is taken away is not looked for
			_, _, _, _ = post(p, model+"/edit", url.Values{"op": {"remove-parameter"}, "id": {written[0]}}, name)
			written = written[1:]
		}
	}
	return written
}

func (t *tally) took(began time.Time) {
	if d := int64(time.Since(began)); d > t.slowest.Load() {
		t.slowest.Store(d)
	}
}

func (t *tally) count(status int, err error) {
	if err != nil {
		t.unanswered.Add(1)
		time.Sleep(100 * time.Millisecond)
		return
	}
	if status != http.StatusOK {
		t.refused.Add(1)
	}
}

// watch reads the stream of events of the model, and comes back when it breaks off.
func watch(ctx context.Context, p *server, model string, t *tally) {
	for ctx.Err() == nil {
		r, err := http.NewRequestWithContext(ctx, http.MethodGet, p.url(model+"/events"), nil)
		if err != nil {
			return
		}
		answer, err := http.DefaultClient.Do(r)
		if err != nil {
			time.Sleep(300 * time.Millisecond)
			continue
		}
		in := bufio.NewScanner(answer.Body)
		in.Buffer(nil, 1<<20)
		for in.Scan() {
			if strings.HasPrefix(in.Text(), "event:") {
				t.reads.Add(1)
			}
		}
		answer.Body.Close()
	}
}

// solve starts a run whenever none is under way.
func solve(ctx context.Context, p *server, model string, t *tally) {
	for ctx.Err() == nil {
		if status, _, _, err := post(p, model+"/runs", nil, "runner"); err == nil && status == http.StatusNoContent {
			t.runs.Add(1)
		}
		select {
		case <-ctx.Done():
		case <-time.After(time.Second):
		}
	}
}

// missing lists the names that are not in the model.
func missing(p *server, model string, names []string) (lost []string, err error) {
	answer, err := client.Get(p.url(model + "/file"))
	if err != nil {
		return nil, err
	}
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	if err != nil {
		return nil, err
	}
	for _, n := range names {
		if !strings.Contains(string(text), `"name": "`+n+`"`) {
			lost = append(lost, n)
		}
	}
	return lost, nil
}

// full lets the server work on a disk of 4 MB, which only root can make, until it is full and
// beyond, and looks whether all that it acknowledged is there when there is room again.
func full(s *settings, dir string) error {
	disk := filepath.Join(dir, "small")
	if err := os.Mkdir(disk, 0o700); err != nil {
		return err
	}
	if err := syscall.Mount("tmpfs", disk, "tmpfs", 0, "size=4m"); err != nil {
		fmt.Println("full disk: not tried, for want of the right to mount one")
		return nil
	}
	defer func() { _ = syscall.Unmount(disk, 0) }()
	p := &server{program: s.program, dir: filepath.Join(disk, "data"), listen: "127.0.0.1:0"}
	if err := p.start(); err != nil {
		return err
	}
	model, err := create(p)
	if err != nil {
		return err
	}
	last, acknowledged, refused := "", 0, map[int]int{}
	for n := range 600 {
		aim := fmt.Sprintf("aim %d %s", n, strings.Repeat("x", 8000))
		status, _, _, err := post(p, model+"/edit", url.Values{"op": {"set"}, "place": {"aim"}, "value": {aim}}, "full")
		if err != nil {
			return errors.Join(errors.New("the server went away on a full disk"), err)
		}
		if status == http.StatusOK {
			last, acknowledged = aim, acknowledged+1
			continue
		}
		refused[status]++
	}
	p.kill()
	if err := syscall.Mount("tmpfs", disk, "tmpfs", syscall.MS_REMOUNT, "size=64m"); err != nil {
		return err
	}
	if err := p.start(); err != nil {
		return err
	}
	answer, err := client.Get(p.url(model + "/file"))
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	if err != nil {
		return err
	}
	if err := p.end(); err != nil {
		return err
	}
	kept := strings.Contains(string(text), last)
	fmt.Printf("full disk: %d edits acknowledged, refused by status %v; the last acknowledged one is there: %v\n", acknowledged, refused, kept)
	if !kept {
		return errors.New("an acknowledged edit was lost on a full disk")
	}
	return nil
}
