package panel

import (
	"sync"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/incident"
)

// Outbox writes to one client in order, each message when it is due. A client
// that does not read is sent away.
type Outbox struct {
	out  chan outgoing
	gone chan struct{}
	once sync.Once
	drop func()
}

type outgoing struct {
	due  time.Time
	data []byte
}

// NewOutbox starts to write; drop ends the client's connection.
func NewOutbox(write func([]byte) error, drop func()) *Outbox {
	o := &Outbox{out: make(chan outgoing, 4096), gone: make(chan struct{}), drop: drop}
	go incident.Contain("bench", "outbox", func() { o.run(write) })
	return o
}

// Send queues a message; it never waits.
func (o *Outbox) Send(due time.Time, data []byte) {
	select {
	case o.out <- outgoing{due, data}:
	default:
		o.drop()
	}
}

// Close ends the outbox.
func (o *Outbox) Close() { o.once.Do(func() { close(o.gone) }) }

func (o *Outbox) run(write func([]byte) error) {
	for {
		select {
		case m := <-o.out:
			if wait := time.Until(m.due); wait > 0 {
				select {
				case <-time.After(wait):
				case <-o.gone:
					return
				}
			}
			if write(m.data) != nil {
				o.drop()
				return
			}
		case <-o.gone:
			return
		}
	}
}

// Queue hands messages on in order, each batch when it is due, to a function
// that may wait.
type Queue struct {
	in   chan due
	gone chan struct{}
	once sync.Once
}

type due struct {
	at   time.Time
	msgs []device.Message
}

// NewQueue starts a queue.
func NewQueue(hand func([]device.Message)) *Queue {
	q := &Queue{in: make(chan due, 4096), gone: make(chan struct{})}
	go incident.Contain("bench", "queue", func() {
		for {
			select {
			case d := <-q.in:
				time.Sleep(time.Until(d.at))
				hand(d.msgs)
			case <-q.gone:
				return
			}
		}
	})
	return q
}

// Put queues messages; where the queue is full they are lost.
func (q *Queue) Put(at time.Time, msgs []device.Message) {
	select {
	case q.in <- due{at, msgs}:
	default:
	}
}

// Close ends the queue.
func (q *Queue) Close() { q.once.Do(func() { close(q.gone) }) }
