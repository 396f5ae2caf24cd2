package engine

import "synaptor/internal/program"

// LetGo ends what goes on by hand and by macro, because another show is about to be in force: runs are halted, what
// is held is released, what a talk opened is closed. When it returns, that is on its way to the devices.
func (e *Engine) LetGo(by Request) {
	_ = e.call(func() error {
		e.haltWhere("Halted by "+by.Actor+", who opened another show", func(*run) bool { return true })
		e.releaseGone(&program.Program{})
		return nil
	})
}

// UnderWay counts the commands that nobody knows the outcome of yet.
func (e *Engine) UnderWay() (n int) {
	_ = e.call(func() error {
		n = len(e.commands)
		return nil
	})
	return n
}
