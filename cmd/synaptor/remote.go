package main

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"net/http"
	"os"
)

// remote is a running Synaptor that a command asks for something, as a program with a token where one is asked for.
type remote struct{ base, token string }

// flags adds those that say which Synaptor it is.
func (r *remote) flags(f *flag.FlagSet, name, usage string) {
	f.StringVar(&r.base, name, "http://127.0.0.1:7420", usage)
	f.StringVar(&r.token, "token", os.Getenv("SYNAPTOR_TOKEN"), "`token` that lets it in, where one is asked for; also as SYNAPTOR_TOKEN")
}

// ask posts something, and reads the answer. It fails with the sentence that Synaptor gives.
func (r *remote) ask(path, kind string, body []byte, into any) error {
	answer, err := r.do(http.MethodPost, path, kind, body)
	if err != nil || into == nil {
		return err
	}
	return json.Unmarshal(answer, into)
}

// get gets something; see ask.
func (r *remote) get(path string, into any) error {
	answer, err := r.do(http.MethodGet, path, "", nil)
	if err != nil {
		return err
	}
	return json.Unmarshal(answer, into)
}

func (r *remote) do(method, path, kind string, body []byte) ([]byte, error) {
	req, err := http.NewRequest(method, r.base+path, bytes.NewReader(body))
	if err != nil {
		return nil, err
	}
	if kind != "" {
		req.Header.Set("Content-Type", kind)
	}
	if r.token != "" {
		req.Header.Set("Authorization", "Bearer "+r.token)
	}
	resp, err := http.DefaultClient.Do(req)
	if err != nil {
		return nil, fmt.Errorf("no Synaptor answers at %s; start one: %w", r.base, err)
	}
	defer resp.Body.Close()
	answer, err := io.ReadAll(resp.Body)
	if err != nil {
		return nil, err
	}
	switch {
	case resp.StatusCode == http.StatusUnauthorized:
		return nil, fmt.Errorf("the Synaptor at %s asks for a token: its owner makes one in People, Programs; say it with --token", r.base)
	case resp.StatusCode >= http.StatusBadRequest:
		var p struct{ Detail string }
		if json.Unmarshal(answer, &p) != nil || p.Detail == "" {
			return nil, fmt.Errorf("it answers %s", resp.Status)
		}
		return nil, fmt.Errorf("%s", p.Detail)
	}
	return answer, nil
}
