package main

import (
	"io"
	"os"
	"path/filepath"
	"runtime"

	"github.com/adrg/xdg"
	"github.com/pkg/browser"

	"synaptor/internal/store"
)

// oldFolder is what the data folder was called before it had a place by the system's convention.
const oldFolder = "data"

// usualFolder is the data folder where none is said: an old one in the working folder or beside the program, where there is one, else the user's own by the
// convention of the system.
func usualFolder() string {
	if store.IsFolder(oldFolder) {
		return oldFolder
	}
	if program, err := os.Executable(); err == nil {
		if beside := filepath.Join(filepath.Dir(program), oldFolder); store.IsFolder(beside) {
			return beside
		}
	}
	if runtime.GOOS == "windows" || runtime.GOOS == "darwin" {
		return filepath.Join(xdg.DataHome, "Synaptor")
	}
	return filepath.Join(xdg.DataHome, "synaptor")
}

// hasScreen tells whether there is a screen that a browser could open on.
func hasScreen() bool {
	return runtime.GOOS == "windows" || runtime.GOOS == "darwin" || os.Getenv("DISPLAY") != "" || os.Getenv("WAYLAND_DISPLAY") != ""
}

// openPage opens a page in the user's browser.
func openPage(url string) error {
	browser.Stdout, browser.Stderr = io.Discard, io.Discard // what browsers have to say is not Synaptor's
	return browser.OpenURL(url)
}
