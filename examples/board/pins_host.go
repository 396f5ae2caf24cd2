//go:build !tinygo

package main

import (
	"io"
	"os"
)

// On a computer it has no keys: it speaks on its input and output.
var line io.ReadWriter = struct {
	io.Reader
	io.Writer
}{os.Stdin, os.Stdout}

func pressed(int) bool  { return false }
func light(int, string) {}
