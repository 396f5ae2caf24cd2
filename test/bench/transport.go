package main

import (
	"context"
	"net"
	"net/http"
	"time"

	"github.com/coder/websocket"
)

// transports measures what it takes to hand a short message over, and nothing else: as a datagram, and by WebSocket. What the wire takes
// beyond OSC is what the one takes beyond the other.
func transports() (datagram, message []time.Duration, err error) {
	got := make(chan time.Time, 1)
	c, err := net.ListenUDP("udp", &net.UDPAddr{IP: net.IPv4(127, 0, 0, 1)})
	if err != nil {
		return nil, nil, err
	}
	defer c.Close()
	go func() {
		for buf := make([]byte, 1500); ; {
			if _, _, err := c.ReadFromUDPAddrPort(buf); err != nil {
				return
			}
			got <- time.Now()
		}
	}()
	u, err := net.Dial("udp", c.LocalAddr().String())
	if err != nil {
		return nil, nil, err
	}
	defer u.Close()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, nil, err
	}
	s := &http.Server{Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ws, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		for {
			if _, _, err := ws.Read(r.Context()); err != nil {
				return
			}
			got <- time.Now()
		}
	})}
	go func() { _ = s.Serve(l) }()
	defer func() { _ = s.Close() }()
	ws, _, err := websocket.Dial(context.Background(), "ws://"+l.Addr().String(), nil)
	if err != nil {
		return nil, nil, err
	}
	defer func() { _ = ws.CloseNow() }()
	short := []byte(`{"type":"down","controller":"bench-0","control":"a1","seq":1}`)
	for range samples / 3 {
		for i, send := range []func() error{
			func() error { _, err := u.Write(short); return err },
			func() error { return ws.Write(context.Background(), websocket.MessageText, short) },
		} {
			time.Sleep(pace)
			at := time.Now()
			if err := send(); err != nil {
				return nil, nil, err
			}
			took := (<-got).Sub(at)
			if i == 0 {
				datagram = append(datagram, took)
			} else {
				message = append(message, took)
			}
		}
	}
	return datagram, message, nil
}
