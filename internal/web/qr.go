package web

import (
	"fmt"
	"net/http"
	"strings"

	"synaptor/internal/core/show"

	"github.com/labstack/echo/v5"
	qrcode "github.com/skip2/go-qrcode"
)

// maxQR is how long a text is that becomes a QR code.
//
//limit:count characters of a QR code | in the answer
const maxQR = 500

// qr draws a text as a QR code (ISO/IEC 18004).
func (s *server) qr(c *echo.Context) error {
	text := c.QueryParam("text")
	if text == "" || len(text) > maxQR {
		return unfit("text", fmt.Sprintf("A QR code has from 1 to %d characters.", maxQR))
	}
	code, err := qrcode.New(text, qrcode.Medium)
	if err != nil {
		return unfit("text", show.Sentence(err))
	}
	var b strings.Builder
	rows := code.Bitmap()
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" shape-rendering="crispEdges"><path fill="#fff" d="M0 0h%dv%dH0z"/><path d="`, len(rows), len(rows), len(rows), len(rows))
	for y, row := range rows {
		for x, dark := range row {
			if dark {
				fmt.Fprintf(&b, "M%d %dh1v1h-1z", x, y)
			}
		}
	}
	b.WriteString(`"/></svg>`)
	return c.Blob(http.StatusOK, "image/svg+xml", []byte(b.String()))
}
