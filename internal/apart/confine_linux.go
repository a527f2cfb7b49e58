package apart

import (
	"os/exec"
	"runtime/debug"
	"syscall"
)

const (
	// memory is how much a process that reads files may have; collected is from where on it saves.
	memory, collected = 1 << 30, 256 << 20
	// behind is how far behind everything else it is scheduled.
	behind = 15
)

// confine bounds this process: what it asks for beyond that is refused, and it dies.
func confine() {
	debug.SetMemoryLimit(collected)
	limit := syscall.Rlimit{Cur: memory, Max: memory}
	_ = syscall.Setrlimit(syscall.RLIMIT_DATA, &limit) // a system that refuses has bounds of its own
	_ = syscall.Setpriority(syscall.PRIO_PROCESS, 0, behind)
}

// bind lets a process end with the one that began it.
func bind(cmd *exec.Cmd) { cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL} }
