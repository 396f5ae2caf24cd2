// Package core holds the rules of the job, in packages of its own. They are
// pure: no I/O, no clock, no goroutine, no interface code. Times come in as
// values. A test beside this file holds them to that.
package core
