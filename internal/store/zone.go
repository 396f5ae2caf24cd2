package store

import (
	"os"
	"path/filepath"
	"strings"
	"time"
)

// LocalZone is the name of this computer's time zone, as IANA has it; empty where the system does not say.
func LocalZone() string {
	name := os.Getenv("TZ")
	if name == "" {
		path, err := filepath.EvalSymlinks("/etc/localtime")
		if err != nil {
			path = ""
		}
		_, name, _ = strings.Cut(path, "zoneinfo/")
	}
	if name == "" {
		text, err := os.ReadFile("/etc/timezone")
		if err != nil {
			return ""
		}
		name = strings.TrimSpace(string(text))
	}
	if _, err := time.LoadLocation(name); err != nil || name == "Local" {
		return ""
	}
	return name
}
