package main

import (
	"bufio"
	"fmt"
	"os"
	"runtime/debug"
	"strconv"
	"strings"
)

// memoryShare is which part of the machine's memory the program takes at most, unless ITEMRACK_MEMORY says how much.
const memoryShare = 4

// boundMemory sets how much memory the program takes at most: towards that it collects what is not used any more the
// harder. ITEMRACK_MEMORY says it in MB.
func boundMemory() error {
	if said := os.Getenv("ITEMRACK_MEMORY"); said != "" {
		mb, err := strconv.ParseInt(said, 10, 64)
		if err != nil || mb < 64 {
			return fmt.Errorf("ITEMRACK_MEMORY is %q: say how many MB, 64 or more", said)
		}
		debug.SetMemoryLimit(mb << 20)
		return nil
	}
	if os.Getenv("GOMEMLIMIT") == "" {
		if all := machineMemory(); all > 0 {
			debug.SetMemoryLimit(all / memoryShare)
		}
	}
	return nil
}

// machineMemory is how many bytes of memory the machine has; 0 where it does not say.
func machineMemory() int64 {
	f, err := os.Open("/proc/meminfo")
	if err != nil {
		return 0
	}
	defer f.Close()
	for lines := bufio.NewScanner(f); lines.Scan(); {
		words := strings.Fields(lines.Text())
		if len(words) < 2 || words[0] != "MemTotal:" {
			continue
		}
		kb, err := strconv.ParseInt(words[1], 10, 64)
		if err != nil {
			return 0
		}
		return kb << 10
	}
	return 0
}
