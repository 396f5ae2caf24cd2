package link

import "golang.org/x/sys/windows"

// What a system says of a peer that cannot be reached.
const (
	errRefused   = windows.WSAECONNREFUSED
	errNoNetwork = windows.WSAENETUNREACH
	errNoHost    = windows.WSAEHOSTUNREACH
	errReset     = windows.WSAECONNRESET
	errAborted   = windows.WSAECONNABORTED
)
