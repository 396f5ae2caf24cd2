package reading

import "slices"

// Asked remembers what was last asked of each reading, for as long as the device has not told of anything else since: so that what a device says when it
// returns can be held against it. The zero value remembers nothing.
type Asked struct{ devices map[string]*askedOf }

type askedOf struct {
	order []string
	by    map[string]ask
}

type ask struct {
	value     Value
	tolerance float64
}

// Difference is a reading that is not what was asked for.
type Difference struct {
	Key         Key
	Asked, Says Value
}

// Ask notes what a reading was asked to be. A later one takes its place.
func (a *Asked) Ask(k Key, v Value, tolerance float64) {
	d := a.devices[k.Device]
	if d == nil {
		if a.devices == nil {
			a.devices = map[string]*askedOf{}
		}
		d = &askedOf{by: map[string]ask{}}
		a.devices[k.Device] = d
	}
	if _, had := d.by[k.Path]; !had {
		d.order = append(d.order, k.Path)
	}
	d.by[k.Path] = ask{v, tolerance}
}

// Forget has nothing be remembered of a reading; it reports whether something was.
func (a *Asked) Forget(k Key) bool {
	d := a.devices[k.Device]
	if d == nil {
		return false
	}
	if _, had := d.by[k.Path]; !had {
		return false
	}
	delete(d.by, k.Path)
	d.order = slices.DeleteFunc(d.order, func(p string) bool { return p == k.Path })
	return true
}

// ForgetDevice has nothing be remembered of a device.
func (a *Asked) ForgetDevice(device string) { delete(a.devices, device) }

// Of gives what a reading was asked to be; false where nothing is remembered.
func (a *Asked) Of(k Key) (v Value, ok bool) {
	if d := a.devices[k.Device]; d != nil {
		w, has := d.by[k.Path]
		return w.value, has
	}
	return nil, false
}

// Told takes in what a device has told of a reading of its own accord, with nothing on its way: a hand is at it, or it has refused what was asked, and what
// was asked counts no more. It reports whether that ended something.
func (a *Asked) Told(k Key, now Reading) bool {
	d := a.devices[k.Device]
	if d == nil || now.Quality != Confirmed {
		return false
	}
	w, has := d.by[k.Path]
	return has && !Equal(now.Value, w.value, w.tolerance) && a.Forget(k)
}

// Differs lists the readings of a device that it reports otherwise than was asked, in the order in which they were asked for first.
func (a *Asked) Differs(device string, now func(Key) Reading) (out []Difference) {
	d := a.devices[device]
	if d == nil {
		return nil
	}
	for _, path := range d.order {
		k, w := Key{device, path}, d.by[path]
		if r := now(k); r.Quality == Confirmed && !Equal(r.Value, w.value, w.tolerance) {
			out = append(out, Difference{k, w.value, r.Value})
		}
	}
	return out
}
