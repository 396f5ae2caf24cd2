package main

import (
	"cmp"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
)

// looked is an archive that a Synaptor has looked at.
type looked struct {
	Token, Name         string
	Pages, Keys, Macros int
	Devices             []struct{ Name, Type, Address, Problem string }
}

// runImport adds the show of an archive to a running Synaptor, and opens it where that is wanted; or takes it, or parts of it, into
// the show that is open.
func runImport(args []string, out, errOut io.Writer) error {
	f := flag.NewFlagSet("import", flag.ContinueOnError)
	var to remote
	to.flags(f, "to", "`address` of the Synaptor that takes it")
	name := f.String("name", "", "what the show is `called`; empty: as in the archive")
	open := f.Bool("open", false, "open it, unless something goes on in the show that is open")
	dry := f.Bool("dry-run", false, "only tell what is in it, and what would become of it")
	into := f.String("into", "", "take it into this `show`, which has to be the one that is open")
	some := f.String("parts", "", "with --into: only these `parts`, as page:Cut,macro:Meteor!,profile:Main,reflex:Duck")
	inPlace := f.Bool("in-place", false, "with --into: what has the name of something there takes its place; else it stands beside it")
	if err := parse(f, args, errOut, "FILE"); err != nil {
		return err
	}
	if *into == "" && (*some != "" || *inPlace) {
		fmt.Fprintln(errOut, "synaptor import: --parts and --in-place need --into")
		return errUsage
	}
	body, err := os.ReadFile(f.Arg(0))
	if err != nil {
		return err
	}
	var doc looked
	if err := to.ask("/api/v1/archives", "application/octet-stream", body, &doc); err != nil {
		return err
	}
	fmt.Fprintf(out, "%s: %d pages, %d keys, %d macros.\n", doc.Name, doc.Pages, doc.Keys, doc.Macros)
	for _, d := range doc.Devices {
		fmt.Fprintf(out, "  %s, %s, %s %s\n", d.Name, d.Type, d.Address, d.Problem)
	}
	if *into != "" {
		return takeInto(&to, *into, *some, doc.Token, *inPlace, *dry, out)
	}
	if *dry {
		return nil
	}
	var made struct{ ID string }
	if err := to.ask("/api/v1/archives/"+doc.Token+"/show", "application/json", jsonOf(map[string]string{"name": cmp.Or(*name, doc.Name)}), &made); err != nil {
		return err
	}
	fmt.Fprintf(out, "It is a show of its own now. Passwords are not in an archive: enter them again.\n")
	if !*open {
		return nil
	}
	if err := to.ask("/api/v1/shows/"+made.ID+"/open", "application/json", []byte("{}"), nil); err != nil {
		return err
	}
	fmt.Fprintln(out, "It is open.")
	return nil
}

// part is a page, a profile, a macro or a reflex of an archive.
type part struct{ ID, Name, Of string }

// takeInto takes an archive, or the parts of it that are named, into the show that is open at a Synaptor.
func takeInto(to *remote, into, some, token string, inPlace, dry bool, out io.Writer) error {
	var now struct{ Name string }
	if err := to.get("/api/v1/show", &now); err != nil {
		return err
	}
	if !strings.EqualFold(now.Name, into) {
		return fmt.Errorf("open there is %s, not %s; open it first", now.Name, into)
	}
	at := "/api/v1/archives/" + token + "/parts"
	var there struct {
		Pages, Profiles, Macros, Reflexes []part
		Devices, Controllers              map[string]string
	}
	if err := to.get(at, &there); err != nil {
		return err
	}
	chosen, err := choose(some, map[string][]part{"page": there.Pages, "profile": there.Profiles, "macro": there.Macros, "reflex": there.Reflexes})
	if err != nil {
		return err
	}
	wish := map[string]any{"pages": chosen["page"], "profiles": chosen["profile"], "macros": chosen["macro"], "reflexes": chosen["reflex"], "devices": there.Devices, "controllers": there.Controllers, "only": dry}
	if inPlace {
		wish["inPlace"] = slices.Concat(ids(there.Pages), ids(there.Profiles), ids(there.Macros), ids(there.Reflexes))
	}
	var rows []struct{ Kind, Title, What, As, Note string }
	if err := to.ask(at, "application/json", jsonOf(wish), &rows); err != nil {
		return err
	}
	for _, r := range rows {
		fmt.Fprintf(out, "  %s %s: %s", r.Kind, r.Title, r.What)
		if r.As != "" && r.As != r.Title {
			fmt.Fprintf(out, ", %s", r.As)
		}
		if r.Note != "" {
			fmt.Fprintf(out, "; %s", r.Note)
		}
		fmt.Fprintln(out)
	}
	if dry {
		fmt.Fprintln(out, "Nothing was changed.")
		return nil
	}
	fmt.Fprintf(out, "It is in %s now. Undo takes it back.\n", now.Name)
	return nil
}

func ids(of []part) (out []string) {
	for _, p := range of {
		out = append(out, p.ID)
	}
	return out
}

// choose finds the parts that a list as page:Cut,macro:Meteor! names, by their kind; an empty one means all profiles, macros and reflexes. A
// page can be told from others of its name by its profile: page:Cut/Main.
func choose(list string, all map[string][]part) (chosen map[string][]string, err error) {
	chosen = map[string][]string{}
	if list == "" {
		return map[string][]string{"profile": ids(all["profile"]), "macro": ids(all["macro"]), "reflex": ids(all["reflex"])}, nil
	}
	for _, word := range strings.Split(list, ",") {
		kind, name, _ := strings.Cut(strings.TrimSpace(word), ":")
		if all[kind] == nil && kind != "page" && kind != "profile" && kind != "macro" && kind != "reflex" {
			return nil, fmt.Errorf("%q is no part; say page:NAME, profile:NAME, macro:NAME or reflex:NAME", word)
		}
		found := false
		for _, p := range all[kind] {
			if strings.EqualFold(p.Name, name) || p.Of != "" && strings.EqualFold(p.Name+"/"+p.Of, name) {
				chosen[kind], found = append(chosen[kind], p.ID), true
			}
		}
		if !found {
			return nil, fmt.Errorf("the archive has no %s %q", kind, name)
		}
	}
	return chosen, nil
}

func jsonOf(v any) []byte {
	body, err := json.Marshal(v)
	if err != nil {
		panic(err) // of strings and booleans
	}
	return body
}
