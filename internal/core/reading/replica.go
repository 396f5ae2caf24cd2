package reading

import (
	"maps"
	"slices"
)

// Replica is a copy of a table's readings that follows it. Version gives it as it
// stands, as something that never changes: what both have in common is shared until
// the replica changes it. A Replica is not safe for concurrent use; its versions are.
type Replica struct {
	devices map[string]*deviceReadings
	shared  bool // a version has the map of devices too
}

// Version is a set of readings that does not change.
type Version struct{ devices map[string]*deviceReadings }

// deviceReadings are the readings of a device, in the order in which they were heard.
type deviceReadings struct {
	order  []string
	cells  map[string]Reading
	shared bool // a version has them too
}

// NewReplica returns an empty replica.
func NewReplica() *Replica { return &Replica{devices: map[string]*deviceReadings{}} }

// Set sets a reading as it stands elsewhere.
func (r *Replica) Set(k Key, now Reading) {
	d := r.own(k.Device)
	if _, had := d.cells[k.Path]; !had {
		d.order = append(d.order, k.Path)
	}
	d.cells[k.Path] = now
}

// Drop takes one reading away.
func (r *Replica) Drop(k Key) {
	if r.devices[k.Device] == nil {
		return
	}
	d := r.own(k.Device)
	delete(d.cells, k.Path)
	d.order = slices.DeleteFunc(slices.Clone(d.order), func(p string) bool { return p == k.Path })
}

// Forget removes all readings of a device.
func (r *Replica) Forget(device string) {
	r.ownMap()
	delete(r.devices, device)
}

// Version gives the readings as they stand.
func (r *Replica) Version() *Version {
	r.shared = true
	for _, d := range r.devices {
		d.shared = true
	}
	return &Version{r.devices}
}

// Reading returns a reading as it stands; one never heard of is unknown.
func (r *Replica) Reading(k Key) Reading { return find(r.devices, k) }

// Paths returns the paths of a device in the order in which they were first heard.
func (r *Replica) Paths(device string) []string { return paths(r.devices, device) }

// Reading returns a reading; one never heard of is unknown.
func (v *Version) Reading(k Key) Reading { return find(v.devices, k) }

// Paths returns the paths of a device in the order in which they were first heard.
func (v *Version) Paths(device string) []string { return paths(v.devices, device) }

func find(devices map[string]*deviceReadings, k Key) Reading {
	if d := devices[k.Device]; d != nil {
		if now, has := d.cells[k.Path]; has {
			return now
		}
	}
	return Reading{Quality: Unknown}
}

func paths(devices map[string]*deviceReadings, device string) []string {
	if d := devices[device]; d != nil {
		return d.order
	}
	return nil
}

// own gives the readings of a device to change: copied where a version has them.
func (r *Replica) own(device string) *deviceReadings {
	d := r.devices[device]
	if d != nil && !d.shared {
		return d
	}
	r.ownMap()
	if d == nil {
		d = &deviceReadings{cells: map[string]Reading{}}
	} else {
		d = &deviceReadings{order: slices.Clip(d.order), cells: maps.Clone(d.cells)}
	}
	r.devices[device] = d
	return d
}

func (r *Replica) ownMap() {
	if r.shared {
		r.devices, r.shared = maps.Clone(r.devices), false
	}
}
