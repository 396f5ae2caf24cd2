package panel

import (
	"math"
	"time"

	"synaptor/internal/core/device"
)

// Glides are numbers on their way, by address.
type Glides map[string]glide

type glide struct {
	from, to float64
	start    time.Time
	over     time.Duration
}

// longestGlide is how long a glide may take, in milliseconds.
const longestGlide = 60_000

// Set has a value be so at once, or glide there over so many milliseconds where it is a number. It gives what has changed so far.
func (g Glides) Set(v *Values, address string, to, ms any, now time.Time) []device.Message {
	delete(g, address)
	over := number(ms)
	from, _ := v.Get(address)
	if _, isText := from.(string); isText || over <= 0 || over > longestGlide {
		return []device.Message{v.Put(address, to)}
	}
	if _, isBool := from.(bool); isBool {
		return []device.Message{v.Put(address, to)}
	}
	g[address] = glide{number(from), number(to), now, time.Duration(over) * time.Millisecond}
	return nil
}

func number(v any) float64 {
	switch n := v.(type) {
	case int:
		return float64(n)
	case float64:
		return n
	}
	return 0
}

// Move moves them on and gives what has changed; running tells whether any is still on its way.
func (g Glides) Move(v *Values, now time.Time) (changed []device.Message, running bool) {
	for at, f := range g {
		share := min(1, now.Sub(f.start).Seconds()/f.over.Seconds())
		var next any = math.Round((f.from+(f.to-f.from)*share)*100) / 100
		old, _ := v.Get(at)
		if _, whole := old.(int); whole {
			next = int(math.Round(f.from + (f.to-f.from)*share))
		}
		if next != old || share == 1 {
			changed = append(changed, v.Put(at, next))
		}
		if share == 1 {
			delete(g, at)
		}
	}
	return changed, len(g) > 0
}
