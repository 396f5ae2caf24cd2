package main

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"

	"synaptor/internal/app"
	"synaptor/internal/archive"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
)

// openArchive reads an archive and compiles its show, with no device and no engine.
func openArchive(file string) (*archive.Archive, *program.Program, error) {
	body, err := os.ReadFile(file)
	if err != nil {
		return nil, nil, err
	}
	a, err := archive.Read(bytes.NewReader(body), int64(len(body)))
	if err != nil {
		return nil, nil, fmt.Errorf("%s: %w", filepath.Base(file), err)
	}
	if len(a.Sheets) == 0 {
		a.Folder = nil
	}
	lib, err := sheet.Load(a.Folder)
	if err != nil {
		return nil, nil, err
	}
	return &a, program.Compile(nil, a.Show, lib, program.Sources{Encode: app.Drivers(nil).Encode}), nil
}
