package program

import "synaptor/internal/core/show"

// SelfID is the id of the built-in device: Synaptor itself.
const SelfID = "synaptor"

// Self is the built-in device. It is in no rig and cannot be removed.
var Self = show.Device{ID: SelfID, Slug: SelfID, Name: "Synaptor", Type: "synaptor.self", Host: "localhost"}
