//go:build !linux

package touch

import "errors"

var errHere = errors.New("this system has no files of devices")

// NumericBlock is not on this system.
func NumericBlock(string, func()) (*Stand, error) { return nil, errHere }

// FootBoard is not on this system.
func FootBoard(string, func()) (*Stand, error) { return nil, errHere }

// FaderRow is not on this system.
func FaderRow(string, func()) (*Stand, error) { return nil, errHere }
