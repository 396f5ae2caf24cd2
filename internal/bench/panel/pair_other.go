//go:build !unix

package panel

import (
	"errors"
	"os"
)

// Pair would open the two ends of a cable; there are no pseudo-terminals here.
func Pair() (near, far *os.File, err error) { return nil, nil, errors.ErrUnsupported }
