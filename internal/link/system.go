package link

import "errors"

// refused tells whether a computer is there and nothing listens at the port.
func refused(err error) bool { return errors.Is(err, errRefused) }

// noWay tells whether no network leads to a computer.
func noWay(err error) bool { return errors.Is(err, errNoNetwork) || errors.Is(err, errNoHost) }

// cut tells whether a connection was ended from elsewhere in the middle of something.
func cut(err error) bool { return wasReset(err) || errors.Is(err, errAborted) }

// wasReset tells whether the peer has ended a connection by a reset.
func wasReset(err error) bool { return errors.Is(err, errReset) }
