package e2e

import (
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"

	"itemrack/shop/testkit"
)

// TestTypedAtAnySpeed types short codes key by key where things are scanned one after
// another, the caret being in no field: none is lost, and none fires a key of the page.
func TestTypedAtAnySpeed(t *testing.T) {
	t.Parallel()
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "5", "13.95")
	s.Open(t, 1)
	p := sit(t, serve(t, s), 1280, 800).as("tobi")
	p.open("/register/1")
	for _, pause := range []time.Duration{0, 30 * time.Millisecond, 150 * time.Millisecond} {
		p.MustEval("() => document.activeElement.blur()")
		for _, r := range "2 x TWV-COR-S" {
			p.Keyboard.MustType(input.Key(r))
			time.Sleep(pause)
		}
		p.keys(input.Enter)
	}
	p.sees("#facts", "1 line · 6 units")
	p.MustEval("() => document.activeElement.blur()")
	p.types("gb")
	p.keys(input.Enter)
	p.sees("#said", "gb")
	p.MustEval("() => document.activeElement.blur()")
	p.leave(func() { p.KeyActions().Press(input.AltLeft).Type('b').MustDo() })
	p.sees("h1", "Take back")
}
