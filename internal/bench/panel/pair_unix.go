//go:build unix

package panel

import (
	"errors"
	"os"

	"github.com/creack/pty"
	"golang.org/x/sys/unix"
	"golang.org/x/term"
)

// Pair opens the two ends of a cable: a pseudo-terminal that changes nothing of
// what goes through it. What waits at the near end, to read or to write, ends
// when that is closed, whoever still has the far end open; the library's own
// waits on.
func Pair() (near, far *os.File, err error) {
	waits, far, err := pty.Open()
	if err != nil {
		return nil, nil, err
	}
	defer func() {
		err = errors.Join(err, waits.Close())
		if err != nil {
			err = errors.Join(err, far.Close())
		}
	}()
	if _, err := term.MakeRaw(int(far.Fd())); err != nil { // what is written shall not come back
		return nil, nil, err
	}
	fd, err := unix.FcntlInt(waits.Fd(), unix.F_DUPFD_CLOEXEC, 0)
	if err != nil {
		return nil, nil, err
	}
	if err := unix.SetNonblock(fd, true); err != nil {
		return nil, nil, errors.Join(err, unix.Close(fd))
	}
	return os.NewFile(uintptr(fd), waits.Name()), far, nil
}
