package app_test

import (
	"testing"

	"synaptor/internal/core/show"
	"synaptor/internal/web"
)

// TestTheDeskIsNoWayAroundRights: what an operator does on it is what it is for and nothing else of Synaptor, and who was given some controllers does none of it.
func TestTheDeskIsNoWayAroundRights(t *testing.T) {
	r := claimed(t)
	o := r.as("Oyelaran")
	for _, action := range []string{"lock", "run", "halt", "park", "safe", "profile", ""} {
		if got := o.call("POST", "/api/v1/desk", web.DeskAction{Action: action}, nil); got != 422 {
			t.Errorf("%q from the Desk answers %d", action, got)
		}
	}
	if o.call("POST", "/api/v1/desk", web.DeskAction{Action: "seen"}, nil) != 202 {
		t.Error("an operator cannot say that a warning was seen")
	}
	r.narrowed(map[string]any{"controllers": []string{r.controller("producer-grid")}, "changes": nil})
	for _, q := range []struct {
		method, path string
		body         any
	}{
		{"POST", "/api/v1/desk", web.DeskAction{Action: "seen"}},
		{"POST", "/api/v1/night", web.ClosingForm{Name: "Night"}},
		{"POST", "/api/v1/night/off", web.OffForm{Device: "dome-lights", Path: "lamp/1/on"}},
		{"POST", "/api/v1/devices/dome-switcher/returned", web.Decision{}},
		{"POST", "/api/v1/markers", web.MarkerForm{Text: "Fireball"}},
		{"PUT", "/api/v1/markers/x", web.MarkerForm{Text: "Fireball"}},
		{"DELETE", "/api/v1/markers/x", nil},
		{"DELETE", "/api/v1/putback/x", nil},
	} {
		if got := o.call(q.method, q.path, q.body, nil); got != 403 {
			t.Errorf("%s %s of somebody who was given one controller answers %d", q.method, q.path, got)
		}
	}
	if got := o.call("PUT", "/api/v1/me/desk", show.Desk{Controllers: []string{}, Parts: []string{}, Side: "left"}, nil); got != 204 {
		t.Errorf("arranging one's own Desk answers %d", got)
	}
}
