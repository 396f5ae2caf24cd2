package mirror

import "maps"

// versioned is a map that can be handed out as it stands: the next change after that
// makes a copy first. The zero value is empty.
type versioned[K comparable, V any] struct {
	all    map[K]V
	shared bool
}

// share gives the map to somebody who only reads it.
func (v *versioned[K, V]) share() versioned[K, V] {
	v.shared = true
	return *v
}

func (v *versioned[K, V]) get(k K) V { return v.all[k] }

func (v *versioned[K, V]) set(k K, value V) {
	v.own()
	v.all[k] = value
}

func (v *versioned[K, V]) delete(k K) {
	if _, has := v.all[k]; has {
		v.own()
		delete(v.all, k)
	}
}

func (v *versioned[K, V]) own() {
	switch {
	case v.all == nil:
		v.all = map[K]V{}
	case v.shared:
		v.all = maps.Clone(v.all)
	}
	v.shared = false
}
