package main

import (
	"bytes"
	"cmp"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"net/http"
	"os"
)

// runImport adds the show of an archive to a running Synaptor, and opens it where that is wanted.
func runImport(args []string, out, errOut io.Writer) error {
	f := flag.NewFlagSet("import", flag.ContinueOnError)
	to := f.String("to", "http://127.0.0.1:7420", "`address` of the Synaptor that takes it")
	name := f.String("name", "", "what the show is `called`; empty: as in the archive")
	open := f.Bool("open", false, "open it, unless something goes on in the show that is open")
	dry := f.Bool("dry-run", false, "only tell what is in it")
	if err := parse(f, args, errOut, "FILE"); err != nil {
		return err
	}
	body, err := os.ReadFile(f.Arg(0))
	if err != nil {
		return err
	}
	var doc struct {
		Token, Name         string
		Pages, Keys, Macros int
		Devices             []struct{ Name, Type, Address, Problem string }
	}
	if err := ask(*to+"/api/v1/archives", "application/octet-stream", body, &doc); err != nil {
		return err
	}
	fmt.Fprintf(out, "%s: %d pages, %d keys, %d macros.\n", doc.Name, doc.Pages, doc.Keys, doc.Macros)
	for _, d := range doc.Devices {
		fmt.Fprintf(out, "  %s, %s, %s %s\n", d.Name, d.Type, d.Address, d.Problem)
	}
	if *dry {
		return nil
	}
	var made struct{ ID string }
	wanted, err := json.Marshal(map[string]string{"name": cmp.Or(*name, doc.Name)})
	if err != nil {
		return err
	}
	if err := ask(*to+"/api/v1/archives/"+doc.Token+"/show", "application/json", wanted, &made); err != nil {
		return err
	}
	fmt.Fprintf(out, "It is a show of its own now. Passwords are not in an archive: enter them again.\n")
	if !*open {
		return nil
	}
	if err := ask(*to+"/api/v1/shows/"+made.ID+"/open", "application/json", []byte("{}"), nil); err != nil {
		return err
	}
	fmt.Fprintln(out, "It is open.")
	return nil
}

// ask posts something to a Synaptor, and reads its answer. It fails with the sentence that Synaptor gives.
func ask(url, kind string, body []byte, into any) error {
	resp, err := http.Post(url, kind, bytes.NewReader(body))
	if err != nil {
		return fmt.Errorf("no Synaptor answers there; start one: %w", err)
	}
	defer resp.Body.Close()
	answer, err := io.ReadAll(resp.Body)
	if err != nil {
		return err
	}
	if resp.StatusCode >= http.StatusBadRequest {
		var p struct{ Detail string }
		if json.Unmarshal(answer, &p) != nil || p.Detail == "" {
			return fmt.Errorf("it answers %s", resp.Status)
		}
		return fmt.Errorf("%s", p.Detail)
	}
	if into == nil {
		return nil
	}
	return json.Unmarshal(answer, into)
}
