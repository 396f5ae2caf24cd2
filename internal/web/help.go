package web

import (
	"fmt"
	"net/http"

	"github.com/labstack/echo/v5"

	"synaptor/docs"
	"synaptor/internal/edit"
	"synaptor/internal/help"
)

// readHelp reads the documents that came with the program.
func readHelp() help.Library {
	l, err := help.Read(docs.Files)
	if err != nil {
		panic(err) // they are part of the program
	}
	return l
}

// helpTopic gives what the documents say of something.
func (s *server) helpTopic(c *echo.Context) error {
	id := c.Param("document")
	if section := c.Param("section"); section != "" {
		id += "/" + section
	}
	t, err := s.help().Topic(id)
	if err != nil {
		return fmt.Errorf("%w: %w", err, edit.ErrNotFound)
	}
	return c.JSON(http.StatusOK, t)
}
