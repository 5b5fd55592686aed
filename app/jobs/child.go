package jobs

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"strings"
	"sync"
	"time"

	"saltkettle/core/solve"
)

// stopGrace is how long a worker may take to stop before it is killed.
const stopGrace = 5 * time.Second

// child gives a task to a worker and returns its last message that is not an event.
// The worker stops when ctx ends.
func (m *Manager) child(ctx context.Context, task *Task, event func(solve.Event)) (Message, error) {
	cmd := exec.Command(m.command[0], m.command[1:]...)
	var stderr bytes.Buffer
	cmd.Stderr = &limited{buf: &stderr, left: 16 << 10}
	stdin, err := cmd.StdinPipe()
	if err != nil {
		return Message{}, err
	}
	stdout, err := cmd.StdoutPipe()
	if err != nil {
		return Message{}, err
	}
	if err := cmd.Start(); err != nil {
		return Message{}, err
	}
	var once sync.Once
	var timer *time.Timer
	stop := func() {
		once.Do(func() {
			stdin.Close()
			timer = time.AfterFunc(stopGrace, func() { _ = cmd.Process.Kill() })
		})
	}
	unhook := context.AfterFunc(ctx, stop)
	defer unhook()
	if err := json.NewEncoder(stdin).Encode(task); err != nil {
		m.log.Warn("a worker did not take its task", "error", err)
	}
	last := m.listen(stdout, event)
	err = cmd.Wait()
	stop() // closes the pipe and starts a timer for a process that is gone
	timer.Stop()
	if text := strings.TrimSpace(stderr.String()); text != "" {
		m.log.Warn("a worker complained", "text", text)
		if err != nil {
			first, _, _ := strings.Cut(text, "\n")
			err = fmt.Errorf("%w: %s", err, first)
		}
	}
	return last, err
}

// listen reads the messages of a worker to their end.
func (m *Manager) listen(r io.Reader, event func(solve.Event)) Message {
	var last Message
	in := bufio.NewReader(r)
	for {
		line, err := in.ReadBytes('\n')
		if len(line) > 0 {
			var msg Message
			if jsonErr := json.Unmarshal(line, &msg); jsonErr != nil {
				m.log.Warn("a worker wrote something else than a message")
			} else if msg.Event != nil {
				event(*msg.Event)
			} else {
				last = msg
			}
		}
		if err != nil {
			if !errors.Is(err, io.EOF) {
				m.log.Warn("a worker's output broke off", "error", err)
			}
			return last
		}
	}
}

// limited keeps the first bytes that are written to it.
type limited struct {
	buf  *bytes.Buffer
	left int
}

func (l *limited) Write(p []byte) (int, error) {
	n := min(len(p), l.left)
	l.buf.Write(p[:n])
	l.left -= n
	return len(p), nil
}
