// Package browser drives the interface in headless Chromium, as a person would:
// pointing, dragging, typing, looking.
package browser

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// Patience is how long a condition may take to come true before it is given up.
const Patience = 30 * time.Second

// Browser is a running Chromium.
type Browser struct {
	ctx  context.Context
	stop []func()
}

// Start runs Chromium with an empty profile.
func Start() (*Browser, error) { return StartWith() }

// StartWith runs it with further flags of its own, as name or name=value.
func StartWith(flags ...string) (*Browser, error) {
	path, err := exec.LookPath("chromium-headless-shell") // half the work of a whole Chromium at a page's start
	if err != nil {
		path, err = exec.LookPath("chromium")
	}
	if err != nil {
		return nil, errors.New("chromium is not installed; make test installs it")
	}
	opts := []chromedp.ExecAllocatorOption{chromedp.ExecPath(path), chromedp.NoSandbox, chromedp.Headless, chromedp.DisableGPU,
		chromedp.NoFirstRun, chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true),
		// A tab that is not in front works as one that is: each is another person's.
		chromedp.Flag("disable-background-timer-throttling", true), chromedp.Flag("disable-backgrounding-occluded-windows", true),
		chromedp.Flag("disable-renderer-backgrounding", true), chromedp.Flag("disable-sync", true), chromedp.Flag("disable-quic", true), chromedp.WindowSize(1280, 800)}
	for _, f := range flags {
		name, value, has := strings.Cut(f, "=")
		if has {
			opts = append(opts, chromedp.Flag(name, value))
		} else {
			opts = append(opts, chromedp.Flag(name, true))
		}
	}
	alloc, stopAlloc := chromedp.NewExecAllocator(context.Background(), opts...)
	ctx, cancel := chromedp.NewContext(alloc)
	if err := chromedp.Do(ctx); err != nil {
		cancel()
		stopAlloc()
		return nil, fmt.Errorf("start chromium: %w", err)
	}
	return &Browser{ctx: ctx, stop: []func(){cancel, stopAlloc}}, nil
}

// Close ends Chromium.
func (b *Browser) Close() {
	for _, f := range b.stop {
		f()
	}
}

// Page is one tab with storage of its own: another person's browser.
type Page struct {
	ctx    context.Context
	cancel context.CancelFunc
	base   string
}

// Open opens a tab of a size, in CSS pixels, on a Synaptor. Tabs opened as the
// same person share their session.
func (b *Browser) Open(base string, width, height int64, own bool) (*Page, error) {
	var opts []chromedp.ContextOption
	if own {
		opts = append(opts, chromedp.WithNewBrowserContext())
	}
	ctx, cancel := chromedp.NewContext(b.ctx, opts...)
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(width, height)); err != nil {
		cancel()
		return nil, fmt.Errorf("open a tab: %w", err)
	}
	return &Page{ctx: ctx, cancel: cancel, base: base}, nil
}

// Close closes the tab.
func (p *Page) Close() { p.cancel() }

// Resize changes the size of the tab.
func (p *Page) Resize(width, height int64) error {
	return p.do("resize", chromedp.EmulateViewport(width, height))
}

func (p *Page) do(what string, steps ...chromedp.Action[chromedp.Void]) error {
	ctx, cancel := context.WithTimeout(p.ctx, Patience)
	defer cancel()
	if err := chromedp.Do(ctx, steps...); err != nil {
		return fmt.Errorf("%s: %w", what, err)
	}
	return nil
}

// Goto opens a path of Synaptor.
func (p *Page) Goto(path string) error { return p.do("go to "+path, chromedp.Navigate(p.base+path)) }

// Move has what slides in and fades over do so, for somebody who has not asked their system for less motion.
func (p *Page) Move() error {
	return p.do("have things move", chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		usual := []*emulation.MediaFeature{{Name: "prefers-reduced-motion", Value: "no-preference"}}
		_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: usual})
		return err
	}))
}

// Before has each page that is gone to from now on run a script before its own.
func (p *Page) Before(js string) error {
	return p.do("have scripts run first", chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: js})
		return err
	}))
}

// Eval evaluates JavaScript and decodes its value.
func Eval[T any](p *Page, js string) (T, error) {
	ctx, cancel := context.WithTimeout(p.ctx, Patience)
	defer cancel()
	v, err := chromedp.Run(ctx, chromedp.Evaluate[T](js))
	if err != nil {
		return v, fmt.Errorf("evaluate %s: %w", js, err)
	}
	return v, nil
}

// Wait waits until a JavaScript condition is true, on the page that comes if the tab goes to another one meanwhile. One that throws is not true yet: what it
// asks about may still come.
func (p *Page) Wait(js string) error {
	ctx, cancel := context.WithTimeout(p.ctx, Patience+time.Second)
	defer cancel()
	poll := chromedp.Poll[bool]("(() => { try { return !!("+js+"); } catch (e) { window.testThrew = String(e); return false; } })()", chromedp.WithPollingInterval(20*time.Millisecond), chromedp.WithPollingTimeout(Patience))
	_, err := chromedp.Run(ctx, poll)
	for err != nil && ctx.Err() == nil && moved(err) {
		_, err = chromedp.Run(ctx, poll)
	}
	if err != nil {
		threw, _ := Eval[string](p, "window.testThrew ?? ''") // it is said beside the error
		return fmt.Errorf("wait for %s: %w %s", js, err, threw)
	}
	return nil
}

// moved tells whether a page went to another one while it was asked.
func moved(err error) bool {
	return strings.Contains(err.Error(), "navigated") || strings.Contains(err.Error(), "Cannot find context")
}

// See waits until an element is there and has a size.
func (p *Page) See(selector string) error {
	return p.Wait(fmt.Sprintf("document.querySelector(%s)?.getBoundingClientRect().width > 0", quote(selector)))
}

// Text waits until an element contains a text.
func (p *Page) Text(selector, text string) error {
	return p.Wait(fmt.Sprintf("document.querySelector(%s)?.textContent.includes(%s)", quote(selector), quote(text)))
}

func quote(s string) string {
	b, _ := json.Marshal(s)
	return string(b)
}

// Point is a place on the page.
type Point struct{ X, Y float64 }

// At waits for an element to come to rest and returns its middle, scrolled into
// view: what comes in above a row moves it from under the hand.
func (p *Page) At(selector string) (Point, error) {
	q := quote(selector)
	rest := fmt.Sprintf(`(() => { const e = document.querySelector(%s); if (!e) return false; e.scrollIntoView({block: "nearest"});
		const r = e.getBoundingClientRect(), at = [%s, r.x, r.y, r.width, r.height].join(" "), still = window.testAt === at;
		window.testAt = at; return still && r.width > 0; })()`, q, q)
	if err := p.Wait(rest); err != nil {
		return Point{}, fmt.Errorf("%s comes to rest: %w", selector, err)
	}
	js := fmt.Sprintf(`(() => { const r = document.querySelector(%s).getBoundingClientRect();
		return {X: r.x + r.width / 2, Y: r.y + r.height / 2}; })()`, q)
	return Eval[Point](p, js)
}

// Mouse sends a mouse event.
func (p *Page) Mouse(typ input.DispatchMouseEventType, at Point, modifiers int64) error {
	params := input.DispatchMouseEventParams{Type: typ, X: at.X, Y: at.Y, Button: input.MouseButtonLeft, ClickCount: 1, Modifiers: modifiers}
	if typ == input.DispatchMouseEventTypeMouseMoved {
		params.Buttons = 1
	}
	return p.do("mouse", chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, input.DispatchMouseEvent, params)
		return err
	}))
}

// aim has the page hear nothing of a press that does not come to an element: while a page loads, things move from under the hand and lie over each
// other. window.testHit says whether it was hit, and ends that.
const aim = `(() => {
	const find = () => document.querySelector(%s) ?? aimed, aimed = find(), r = aimed.getBoundingClientRect();
	let missed = false;
	const hear = (e) => {
		if (e.type === "pointerdown") missed = !(find().contains(e.target) || e.target.contains(find()));
		if (missed) { e.stopImmediatePropagation(); e.preventDefault(); }
	};
	const heard = ["pointerdown", "mousedown", "pointerup", "mouseup", "click"];
	for (const type of heard) window.addEventListener(type, hear, true);
	window.testHit = (end) => { if (end || !missed) for (const type of heard) window.removeEventListener(type, hear, true); return !missed; };
	return {X: r.x + r.width / 2, Y: r.y + r.height / 2}; })()`

// press presses the mouse on an element and leaves it down, where it was hit; else it is aimed at again.
func (p *Page) press(selector string, modifiers int64) (Point, error) {
	for limit := time.Now().Add(Patience); time.Now().Before(limit); {
		if _, err := p.At(selector); err != nil {
			return Point{}, err
		}
		at, err := Eval[Point](p, fmt.Sprintf(aim, quote(selector)))
		if err != nil {
			return at, err
		}
		if err := p.Mouse(input.DispatchMouseEventTypeMousePressed, at, modifiers); err != nil {
			return at, err
		}
		if hit, err := Eval[bool](p, "window.testHit?.() ?? true"); hit || err != nil { // one that went to another page was hit
			return at, nil
		}
		if err := p.Mouse(input.DispatchMouseEventTypeMouseReleased, at, modifiers); err != nil {
			return at, err
		}
		if _, err := Eval[bool](p, "window.testHit(true)"); err != nil {
			return at, err
		}
	}
	return Point{}, fmt.Errorf("%s is never under the hand: something else is", selector)
}

// Down presses the mouse on an element and leaves it down.
func (p *Page) Down(selector string) error {
	_, err := p.press(selector, 0)
	return err
}

// Up lets the mouse go over an element.
func (p *Page) Up(selector string) error {
	at, err := p.At(selector)
	if err != nil {
		return err
	}
	return p.Mouse(input.DispatchMouseEventTypeMouseReleased, at, 0)
}

// Click clicks an element.
func (p *Page) Click(selector string) error {
	return errors.Join(p.Down(selector), p.Up(selector))
}

// Hold starts to drag one element and stops over another, with the button still
// down.
func (p *Page) Hold(from, over string, modifiers int64) error {
	b, err := p.At(over)
	if err != nil {
		return err
	}
	a, err := p.press(from, modifiers)
	if err != nil {
		return err
	}
	for i := 1; i <= 8; i++ {
		f := float64(i) / 8
		at := Point{a.X + (b.X-a.X)*f, a.Y + (b.Y-a.Y)*f}
		if err := p.Mouse(input.DispatchMouseEventTypeMouseMoved, at, modifiers); err != nil {
			return err
		}
	}
	return nil
}

// Drag drags one element onto another.
func (p *Page) Drag(from, to string, modifiers int64) error {
	if err := p.Hold(from, to, modifiers); err != nil {
		return err
	}
	b, err := p.At(to)
	if err != nil {
		return err
	}
	return p.Mouse(input.DispatchMouseEventTypeMouseReleased, b, modifiers)
}

// Keys types into whatever has the focus.
func (p *Page) Keys(keys string, opts ...chromedp.KeyOption) error {
	return p.do("type "+keys, chromedp.KeyEvent(keys, opts...))
}

// Press presses one key, such as a or Delete, as a keyboard shortcut.
func (p *Page) Press(key string, modifiers int64) error {
	return p.do("press "+key, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		for _, typ := range []input.DispatchKeyEventType{input.DispatchKeyEventTypeKeyDown, input.DispatchKeyEventTypeKeyUp} {
			params := input.DispatchKeyEventParams{Type: typ, Key: key, Code: codeOf(key), Modifiers: modifiers}
			if len(key) == 1 && typ == input.DispatchKeyEventTypeKeyDown {
				params.Text = key
			}
			if _, err := cdp.Call(ctx, t, input.DispatchKeyEvent, params); err != nil {
				return err
			}
		}
		return nil
	}))
}

// codeOf is the KeyboardEvent.code of a letter; others have none.
func codeOf(key string) string {
	if up := strings.ToUpper(key); len(key) == 1 && up >= "A" && up <= "Z" {
		return "Key" + up
	}
	return ""
}

// Fill puts a text into a field in place of what is there.
func (p *Page) Fill(selector, text string) error {
	if err := p.Click(selector); err != nil {
		return err
	}
	if _, err := Eval[bool](p, fmt.Sprintf("(document.querySelector(%s).select(), true)", quote(selector))); err != nil {
		return err
	}
	if text == "" {
		return p.Keys("\b")
	}
	return p.Keys(text)
}

// Choose takes a value in a list to choose from.
func (p *Page) Choose(selector, value string) error {
	if err := p.See(selector); err != nil {
		return err
	}
	_, err := Eval[bool](p, fmt.Sprintf(`(() => { const s = document.querySelector(%s); s.value = %s;
		s.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`, quote(selector), quote(value)))
	return err
}

// Shot writes a PNG of the tab.
func (p *Page) Shot(file string) error {
	ctx, cancel := context.WithTimeout(p.ctx, Patience)
	defer cancel()
	png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
	if err != nil {
		return fmt.Errorf("screenshot: %w", err)
	}
	return os.WriteFile(file, png, 0o644)
}
