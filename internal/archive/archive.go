// Package archive is the whole show in one file: a zip with the show, its pictures, the
// user's own sheets, and the assumptions that a rehearsal rests on. Passwords are in it only
// where they were asked for, sealed with a passphrase.
package archive

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"math"
	"path"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/plan"
)

// Format is the format that is written. Older ones are read as well: the first had no pictures, and always assumptions; the second
// had no links of controllers, and nothing of their light; the third had no reflexes, the fourth no timers and no safe pictures, the fifth no
// accepted findings, the sixth no overlays.
const (
	Format      = "synaptor.archive/7"
	firstFormat = "synaptor.archive/1"
)

// formats lists the formats that are read, the oldest first.
var formats = []string{firstFormat, "synaptor.archive/2", "synaptor.archive/3", "synaptor.archive/4", "synaptor.archive/5", "synaptor.archive/6", Format}

// readme tells whoever opens the file by hand what it is.
const readme = `This is a show of Synaptor. Open it there: the name of the show, Shows, Archive.

show.json         devices, controllers, pages, keys and macros, without passwords
media.json        the names of the pictures, which are in media
sheets            device and controller sheets that were made for this show
passwords.sealed  the passwords of the devices, where they were asked for, sealed with a passphrase
assumptions.json  what devices said when this was written, for rehearsals without them
`

// Limits of what is read.
const (
	//limit:count files of an archive | at the import
	maxFiles = 2000
	//limit:bytes a file of an archive, unpacked | at the import
	maxFile = 64 << 20 // bytes of one file, unpacked
	//limit:bytes an archive, unpacked | at the import
	maxAll = 256 << 20 // of all together
	// What is small as JSON can be large once it is read, so the parts have bounds of their own.
	//limit:bytes a device, key, step or page in an archive | at the import
	maxEntity = 1 << 20
	//limit:count things of a show in an archive | at the import
	maxEntities = 120_000
	//limit:bytes what an archive says beside its show | at the import
	maxBeside = 8 << 20
)

// Archive is what is in an archive.
type Archive struct {
	Show *show.Show
	// Media are the pictures of its library, in the order of their ids.
	Media  []Picture
	Sheets map[string][]byte // the user's own, by file name
	// Folder has the same, for loading; an archive that was read has it.
	Folder  fs.FS
	Assumed plan.Assumed
	// Sealed are the passwords, where they were asked for: see Seal.
	Sealed []byte
}

// Picture is a picture of the library. Its id is that of its bytes: SHA-256, as hexadecimal digits.
type Picture struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Kind   string `json:"kind"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
	Frames int    `json:"frames"`
	Tags   string `json:"tags"`
	Body   []byte `json:"-"`
}

// Sort puts the pictures in the order of their ids, so that the same show gives the same bytes.
func (a *Archive) Sort() {
	slices.SortFunc(a.Media, func(x, y Picture) int { return strings.Compare(x.ID, y.ID) })
}

type manifest struct {
	Format string `json:"format"`
	Name   string `json:"name"` // of the show
}

type entity struct {
	Kind show.Kind       `json:"kind"`
	ID   string          `json:"id"`
	Body json.RawMessage `json:"body"`
}

// assumptions are the readings by device and path, and latencies in microseconds.
type assumptions struct {
	Readings map[string]map[string]any `json:"readings"`
	MedianUs map[string]int64          `json:"medianUs"`
	P95Us    map[string]int64          `json:"p95Us"`
	Turns    map[string]string         `json:"turns"`
}

// Write writes an archive. The same show and assumptions give the same bytes.
func Write(w io.Writer, a Archive) error {
	z := zip.NewWriter(w)
	as := func(method uint16, name string, body []byte) error {
		f, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method})
		if err == nil {
			_, err = f.Write(body)
		}
		return err
	}
	put := func(name string, body []byte) error { return as(zip.Deflate, name, body) }
	encode := func(name string, v any) error {
		body, err := json.MarshalIndent(v, "", " ")
		if err != nil {
			return err
		}
		return put(name, append(body, '\n'))
	}
	var rows []entity
	if err := json.Unmarshal(anywhere(a.Show).Canonical(), &rows); err != nil {
		return fmt.Errorf("write the archive: %w", err)
	}
	errs := []error{encode("manifest.json", manifest{Format, a.Show.Settings().Name}), put("README.txt", []byte(readme)), encode("show.json", rows)}
	if len(a.Assumed.Values)+len(a.Assumed.Median)+len(a.Assumed.Turns) > 0 {
		errs = append(errs, encode("assumptions.json", assuming(a.Assumed)))
	}
	if len(a.Media) > 0 {
		errs = append(errs, encode("media.json", a.Media))
	}
	for _, m := range a.Media {
		errs = append(errs, as(zip.Store, "media/"+m.ID, m.Body)) // pictures are small already
	}
	if len(a.Sealed) > 0 {
		errs = append(errs, put(sealedFile, a.Sealed))
	}
	for _, name := range slices.Sorted(maps.Keys(a.Sheets)) {
		errs = append(errs, put("sheets/"+name, a.Sheets[name]))
	}
	if err := errors.Join(append(errs, z.Close())...); err != nil {
		return fmt.Errorf("write the archive: %w", err)
	}
	return nil
}

// assuming writes what is assumed as it is read again.
func assuming(a plan.Assumed) assumptions {
	out := assumptions{map[string]map[string]any{}, map[string]int64{}, map[string]int64{}, a.Turns}
	for k, v := range a.Values {
		if out.Readings[k.Device] == nil {
			out.Readings[k.Device] = map[string]any{}
		}
		if f, ok := v.(float64); ok && math.IsInf(f, -1) {
			v = "-inf"
		}
		out.Readings[k.Device][k.Path] = v
	}
	for d, m := range a.Median {
		out.MedianUs[d], out.P95Us[d] = m.Microseconds(), a.P95[d].Microseconds()
	}
	return out
}

// anywhere is a show without what means something here alone: passwords of devices, and whose rights reflexes have.
func anywhere(s *show.Show) *show.Show {
	d := show.NewDraft(s)
	for _, dev := range s.Devices() {
		if dev.Secret != "" {
			c := *dev
			c.Secret = ""
			d.Put(&c)
		}
	}
	for _, r := range s.Reflexes() {
		if r.Owner != "" {
			c := *r
			c.Owner = ""
			d.Put(&c)
		}
	}
	return d.Now()
}

// Read reads an archive. It fails with what is wrong with it.
func Read(r io.ReaderAt, size int64) (a Archive, err error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return a, errors.New("this is no archive, or it was cut off: it cannot be opened as a zip file")
	}
	files, err := unpack(z)
	if err != nil {
		return a, err
	}
	var m manifest
	if err := decode(files, "manifest.json", &m); err != nil {
		return a, err
	}
	if !slices.Contains(formats, m.Format) {
		return a, fmt.Errorf("this archive has the format %q; this Synaptor reads %q to %q", m.Format, firstFormat, Format)
	}
	if a.Show, err = readShow(files); err != nil {
		return a, err
	}
	a.Sheets = map[string][]byte{}
	if a.Folder, err = fs.Sub(z, "sheets"); err != nil {
		return a, err
	}
	for name, body := range files {
		if file, ok := strings.CutPrefix(name, "sheets/"); ok {
			a.Sheets[file] = body
		}
	}
	var in assumptions
	if _, has := files["assumptions.json"]; has || m.Format == firstFormat {
		if err := decode(files, "assumptions.json", &in); err != nil {
			return a, err
		}
	}
	a.Assumed, a.Sealed = in.assumed(), files[sealedFile]
	a.Media, err = readMedia(files)
	return a, err
}

// readMedia reads the pictures. Each has to be what its id says.
func readMedia(files map[string][]byte) (list []Picture, err error) {
	if _, has := files["media.json"]; has {
		if err := decode(files, "media.json", &list); err != nil {
			return nil, err
		}
	}
	seen := map[string]bool{}
	for i := range list {
		m := &list[i]
		body, has := files["media/"+m.ID]
		sum := sha256.Sum256(body)
		switch {
		case !has:
			return nil, fmt.Errorf("the picture %q of this archive is missing", m.Name)
		case hex.EncodeToString(sum[:]) != m.ID:
			return nil, fmt.Errorf("the picture %q of this archive is damaged", m.Name)
		case seen[m.ID]:
			return nil, fmt.Errorf("media.json has the picture %q twice", m.Name)
		}
		seen[m.ID], m.Body = true, body
	}
	for name := range files {
		if id, in := strings.CutPrefix(name, "media/"); in && !seen[id] {
			return nil, fmt.Errorf("the file %q of this archive is in no list", name)
		}
	}
	return list, nil
}

// readShow reads the show, one thing after the other.
func readShow(files map[string][]byte) (*show.Show, error) {
	body, has := files["show.json"]
	if !has {
		return nil, errors.New("this archive has no show.json")
	}
	s, err := show.Read(bytes.NewReader(body), maxEntity, maxEntities)
	if err != nil {
		return nil, fmt.Errorf("show.json of this archive: %w", err)
	}
	return s, nil
}

func (in assumptions) assumed() plan.Assumed {
	out := plan.Assumed{Values: map[reading.Key]reading.Value{}, Median: map[string]time.Duration{}, P95: map[string]time.Duration{}, Turns: in.Turns}
	for device, paths := range in.Readings {
		for p, v := range paths {
			out.Values[reading.Key{Device: device, Path: p}] = v
		}
	}
	for d, us := range in.MedianUs {
		out.Median[d], out.P95[d] = time.Duration(us)*time.Microsecond, time.Duration(in.P95Us[d])*time.Microsecond
	}
	return out
}

// unpack reads the files of an archive, with the limits that keep it from filling the
// memory or leaving its folder.
func unpack(z *zip.Reader) (map[string][]byte, error) {
	if len(z.File) > maxFiles {
		return nil, fmt.Errorf("this archive has %d files; %d is the most", len(z.File), maxFiles)
	}
	files, total := map[string][]byte{}, 0
	for _, f := range z.File {
		switch {
		case strings.HasSuffix(f.Name, "/"):
			continue
		case !fs.ValidPath(f.Name) || path.Clean(f.Name) != f.Name || strings.Contains(f.Name, "\\"):
			return nil, fmt.Errorf("the file %q of this archive would leave its folder", f.Name)
		case files[f.Name] != nil:
			return nil, fmt.Errorf("this archive has the file %q twice", f.Name)
		}
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("the file %q of this archive cannot be read: %w", f.Name, err)
		}
		body, err := io.ReadAll(io.LimitReader(r, maxFile+1))
		if err := errors.Join(err, r.Close()); err != nil {
			return nil, fmt.Errorf("the file %q of this archive is damaged: %w", f.Name, err)
		}
		if total += len(body); len(body) > maxFile || total > maxAll {
			return nil, fmt.Errorf("the file %q of this archive is too large once it is unpacked", f.Name)
		}
		files[f.Name] = append([]byte{}, body...)
	}
	return files, nil
}

// decode reads a file strictly: fields that this version does not know are refused.
func decode(files map[string][]byte, name string, into any) error {
	body, has := files[name]
	if !has {
		return fmt.Errorf("this archive has no %s", name)
	}
	if len(body) > maxBeside {
		return fmt.Errorf("%s of this archive has %d bytes; %d is the most", name, len(body), maxBeside)
	}
	d := json.NewDecoder(bytes.NewReader(body))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return fmt.Errorf("%s of this archive cannot be read: %w", name, err)
	}
	if d.More() {
		return fmt.Errorf("%s of this archive has something after its JSON", name)
	}
	return nil
}
