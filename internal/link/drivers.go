package link

import "synaptor/internal/core/device"

// Drivers are the protocols by name and transport, such as osc/udp.
type Drivers map[string]Driver

// For gives the driver that a device type needs, or nil.
func (d Drivers) For(t *device.Type) Driver {
	return d[t.Sheet.Link.Driver+"/"+t.Sheet.Link.Transport]
}

// Encode gives the bytes of messages in the protocol of a device type.
func (d Drivers) Encode(t *device.Type, messages ...device.Message) ([]byte, error) {
	driver := d.For(t)
	if driver == nil {
		return nil, Problem("Synaptor has no driver for " + t.Sheet.Link.Driver + " over " + t.Sheet.Link.Transport + ".")
	}
	return driver.Encode(messages...)
}
