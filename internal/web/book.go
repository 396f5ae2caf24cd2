package web

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/mirror"
	"synaptor/internal/print"
	"synaptor/internal/program"
)

// onPaper is the policy of pages that are for paper: they fetch nothing and do nothing.
const onPaper = "default-src 'none'; img-src data:; font-src data:; style-src 'unsafe-inline'; sandbox allow-modals"

// book gives the whole show as one page to print.
func (s *server) book(c *echo.Context) error {
	return s.work(c, func(ctx context.Context) error {
		var out bytes.Buffer
		if err := s.bookOf(ctx, s.Mirror.View()).Write(&out); err != nil {
			return err
		}
		if err := ctx.Err(); err != nil {
			return tooLong(err)
		}
		c.Response().Header().Set("Content-Security-Policy", onPaper)
		return c.HTMLBlob(http.StatusOK, out.Bytes())
	})
}

// bookOf gathers what is printed of a show.
func (s *server) bookOf(ctx context.Context, v *mirror.View) print.Book {
	sh := v.Program.Show
	b := print.Book{Show: sh.Settings().Name, When: time.Now().Format("2 January 2006, 15:04")}
	for _, d := range sh.Devices() {
		row := print.Device{Name: d.Name, Type: d.Type, Address: d.Address(), User: d.User}
		if t := v.Program.Devices[d.ID]; t != nil && t.Type != nil {
			row.Type = t.Type.Sheet.Title
		}
		if d.Parked {
			row.Note = "parked"
		}
		b.Devices = append(b.Devices, row)
	}
	for _, ct := range sh.Controllers() {
		row := print.Controller{Name: ct.Name, Layout: ct.Layout}
		if l := v.Program.Sheets.Controller(ct.Layout); l != nil {
			row.Layout = l.Title
		}
		if p := sh.Profile(ct.Profile); p != nil {
			row.Profile = p.Name
		}
		b.Controllers = append(b.Controllers, row)
	}
	for _, p := range sh.Profiles() {
		if pages := s.pagesToPrint(v, func(o *show.Page) bool { return o.Profile == p.ID }); len(pages) > 0 && ctx.Err() == nil {
			b.Profiles = append(b.Profiles, print.Drawn(p.Name, pages))
		}
	}
	for _, m := range sh.Macros() {
		if mac := v.Program.Macros[m.ID]; mac != nil && ctx.Err() == nil {
			b.Macros = append(b.Macros, macroToPrint(v, mac))
		}
	}
	return b
}

// macroToPrint lists the steps of a macro.
func macroToPrint(v *mirror.View, mac *program.Macro) print.Macro {
	row := macroRow(v, mac, v.PlanOf(mac))
	out := print.Macro{Name: mac.Source.Name, Length: time.Duration(row.LengthMs * float64(time.Millisecond)).Round(time.Millisecond).String()}
	if len(row.Uses) > 0 {
		out.Uses = "on " + strings.Join(row.Uses, ", ")
	}
	doc := &MacroDoc{Lines: []StepDoc{}}
	doc.addLines(v, mac, "", 0)
	for _, l := range doc.Lines {
		st := print.Step{Depth: l.Depth, Title: l.Title, When: l.Condition, Off: l.Off}
		switch {
		case l.Ms > 0:
			st.Takes = (time.Duration(l.Ms) * time.Millisecond).String()
		case l.Frames > 0:
			st.Takes = fmt.Sprintf("%g frames", l.Frames)
		}
		if d := v.Program.Show.Device(l.Device); d != nil && l.Kind == macro.Do {
			st.On = d.Name
		}
		out.Steps = append(out.Steps, st)
	}
	return out
}
