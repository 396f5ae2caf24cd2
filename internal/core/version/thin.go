package version

import (
	"slices"
	"time"
)

// Kept is a state that is kept, as far as thinning out needs it.
type Kept struct {
	ID    int64
	At    time.Time
	Named bool // somebody gave it a name: it stays
	Bytes int64
}

// Thin says which of the states that are kept may go: of the last day all stay, before that the last of each day, and
// after a month the last of each week. What is more than most bytes goes from the oldest on. Named ones always stay.
func Thin(list []Kept, now time.Time, most int64) (gone []int64) {
	newest := slices.Clone(list)
	slices.SortFunc(newest, func(a, b Kept) int { return b.At.Compare(a.At) })
	taken, sum := map[int64]bool{}, int64(0)
	for _, k := range newest {
		stays := k.Named
		if age := now.Sub(k.At); age <= 24*time.Hour {
			stays = true
		} else if slot := slotOf(k.At, age); !taken[slot] {
			taken[slot] = true
			stays = true
		}
		if stays && !k.Named && sum+k.Bytes > most {
			stays = false
		}
		if stays {
			sum += k.Bytes
		} else {
			gone = append(gone, k.ID)
		}
	}
	return gone
}

// slotOf numbers the day, or for older ones the week, that a state stands for.
func slotOf(at time.Time, age time.Duration) int64 {
	day := at.Unix() / (24 * 60 * 60)
	if age <= 30*24*time.Hour {
		return day
	}
	return -1 - day/7
}
