// Package web is the HTTP side: the API, the live socket, the interface's
// files. It is thin: rules are in core, changes in edit, inputs in attach.
package web

import (
	"io/fs"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/bench"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/media"
	"synaptor/internal/mirror"
	"synaptor/internal/sheet"
)

// Deps are what the server serves from.
type Deps struct {
	Edit    *edit.Service
	Engine  *engine.Engine
	Mirror  *mirror.Mirror
	Hub     *feed.Hub
	Journal *journal.Journal
	Drivers link.Drivers
	Own     *sheet.Own // the user's own device sheets
	Media   *media.Fetcher
	Bench   *bench.Bench // nil when no stand-ins run in this process
	Files   fs.FS        // the built interface
	OSCIn   string       // the address OSC inputs are taken at, for the interface
}

type server struct {
	Deps
	turn chan struct{} // see work
}

// New returns the handler of everything that Synaptor serves.
func New(d Deps) *echo.Echo {
	s := &server{d, make(chan struct{}, 1)}
	e := echo.New()
	e.HTTPErrorHandler = s.problem
	e.Use(contained, guardHost, guardOrigin, headers, session)

	e.GET("/healthz", func(c *echo.Context) error { return c.String(http.StatusOK, "ok\n") })
	e.GET("/metrics", s.metrics)
	e.GET("/api/openapi.json", func(c *echo.Context) error { return c.JSONBlob(http.StatusOK, openAPI) })
	e.GET("/api/schemas/:name", s.schema)

	v1 := e.Group("/api/v1")
	v1.GET("/show", s.show)
	v1.GET("/edits", s.edits)
	v1.POST("/undo", s.undo)
	v1.POST("/redo", s.redo)
	v1.POST("/devices", s.addDevice)
	v1.PUT("/devices/:id", s.editDevice)
	v1.DELETE("/devices/:id", s.removeDevice)
	v1.POST("/devices/all", s.addDevices)
	v1.POST("/devices/:id/duplicate", s.duplicateDevice)
	v1.PUT("/devices/:id/parked", s.parkDevice)
	v1.POST("/devices/:id/reconnect", s.reconnect)
	v1.POST("/devices/:id/try", s.tryAction)
	v1.POST("/devices/:id/sheet", s.promote)
	v1.GET("/devices/:id/actions", s.actions)
	v1.GET("/devices/:id/pictures", s.pictures)
	v1.GET("/devices/:id/wire", s.wire)
	v1.POST("/identify", s.identify)
	v1.POST("/rollcall", s.rollCall)
	v1.GET("/pictures/:device/:source", s.picture)
	v1.POST("/sheets", s.importSheet)
	v1.GET("/sheets/:type", s.sheetOf)
	v1.DELETE("/sheets/:type", s.removeSheet)
	v1.POST("/controllers", s.addController)
	v1.PUT("/controllers/:id/place", s.place)
	v1.DELETE("/controllers/:id", s.removeController)
	v1.PUT("/controllers/:id/start", s.startPage)
	v1.PUT("/controllers/:id/page", s.showPage)
	v1.POST("/profiles", s.addProfile)
	v1.POST("/pages", s.addPage)
	v1.PUT("/pages/:page", s.editPage)
	v1.DELETE("/pages/:page", s.deletePage)
	v1.POST("/pages/:page/duplicate", s.duplicatePage)
	v1.POST("/pages/:page/extract", s.extract)
	v1.POST("/pages/:page/clear", s.clearMany)
	v1.POST("/pages/:page/faces", s.copyFace)
	v1.PUT("/pages/:page/notes", s.notes)
	v1.GET("/pages/:page/print.svg", s.printed)
	v1.POST("/pages/:page/controls/:control/behind", s.pageBehind)
	v1.POST("/launchers", s.launcher)
	v1.PUT("/profiles/:id", s.editProfile)
	v1.DELETE("/profiles/:id", s.deleteProfile)
	v1.POST("/profiles/:id/duplicate", s.duplicateProfile)
	v1.GET("/profiles/:id/map", s.pageMap)
	v1.PUT("/controllers/:id/profile", s.setProfile)
	v1.GET("/aside", s.aside)
	v1.POST("/aside", s.bringBack)
	v1.POST("/layouts/preview", s.previewLayout)
	v1.GET("/media", s.listMedia)
	v1.POST("/media", s.addMedia)
	v1.GET("/media/:id", s.mediaBody)
	v1.PUT("/media/:id", s.nameMedia)
	v1.DELETE("/media/:id", s.deleteMedia)
	v1.GET("/glyphs", s.glyphNames)
	v1.GET("/devices/:id/values", s.readingValues)
	v1.GET("/glyphs.svg", s.glyphs)
	v1.PUT("/mappings/:id/state", s.tryState)
	v1.PUT("/mappings/:id/standing", s.stand)
	v1.GET("/find", s.find)
	v1.GET("/devices/:id/actions/:action", s.action)
	v1.PUT("/pages/:page/controls/:control", s.putAction)
	v1.DELETE("/pages/:page/controls/:control", s.clear)
	v1.GET("/pages/:page/controls/:control/path", s.path)
	v1.POST("/pages/:page/move", s.move)
	v1.POST("/pages/:page/kits", s.putKit)
	v1.POST("/pages/:page/kits/plan", s.planKit)
	v1.PUT("/mappings/:id", s.editMapping)
	v1.GET("/macros", s.macros)
	v1.POST("/macros", s.addMacro)
	v1.GET("/macros/:id", s.macro)
	v1.PUT("/macros/:id", s.editMacro)
	v1.DELETE("/macros/:id", s.deleteMacro)
	v1.POST("/macros/:id/duplicate", s.duplicateMacro)
	v1.POST("/macros/:id/steps", s.addStep)
	v1.POST("/macros/:id/steps/move", s.moveSteps)
	v1.POST("/macros/:id/steps/shift", s.shiftStep)
	v1.POST("/macros/:id/steps/delete", s.deleteSteps)
	v1.POST("/macros/:id/steps/paste", s.pasteSteps)
	v1.PUT("/macros/:id/steps/:step", s.editStep)
	v1.POST("/macros/:id/fix", s.fixMacro)
	v1.GET("/macros/:id/rehearsal", s.rehearse)
	v1.POST("/macros/:id/run", s.runMacro)
	v1.POST("/pages/:page/macro", s.makeMacro)
	v1.POST("/devices/:id/capture", s.capture)
	v1.POST("/halt", s.halt)
	v1.GET("/settings/macros", s.macroSettings)
	v1.PUT("/settings/macros", s.setMacroSettings)
	v1.GET("/putback/:entry", s.planBack)
	v1.POST("/putback/:entry", s.putBack)
	v1.DELETE("/putback/:entry", s.leave)
	v1.POST("/recording", s.record)
	v1.POST("/recording/end", s.recorded)
	v1.GET("/archive", s.export)
	v1.GET("/readings", s.readings)
	v1.GET("/journal", s.journalList)
	v1.GET("/journal/:id", s.journalOne)
	v1.POST("/input/:controller/:control/:gesture", s.input)
	v1.GET("/live", s.live)
	v1.GET("/bench", s.benchView)
	v1.POST("/bench/:standin/operate", s.benchOperate)
	v1.PUT("/bench/:standin/faults", s.benchFaults)
	v1.POST("/bench/:standin/restart", s.benchRestart)
	v1.RouteNotFound("/*", func(*echo.Context) error { return echo.ErrNotFound })

	s.static(e)
	return e
}

// HTTP returns a server for a handler with limits against slow callers.
func HTTP(h http.Handler) *http.Server {
	return &http.Server{Handler: h, ReadHeaderTimeout: 5 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10}
}
