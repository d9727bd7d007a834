package web

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// What stands in what (HTML Living Standard, sections 3.2.5 and 4): elements without an end,
// those that may only hold text and its like, and those that are no such.
var (
	void = []atom.Atom{atom.Area, atom.Base, atom.Br, atom.Col, atom.Embed, atom.Hr, atom.Img, atom.Input, atom.Link,
		atom.Meta,
		atom.Source, atom.Track, atom.Wbr}
	phrasing = []atom.Atom{atom.P, atom.Span, atom.B, atom.I, atom.Em, atom.Strong, atom.Small, atom.Label,
		atom.Button, atom.H1,
		atom.H2, atom.H3, atom.Summary, atom.Code, atom.Kbd}
	flow = []atom.Atom{atom.Div, atom.P, atom.Table, atom.Ul, atom.Ol, atom.Dl, atom.Section, atom.Article, atom.Nav,
		atom.Form,
		atom.Fieldset, atom.Details, atom.H1, atom.H2, atom.H3, atom.Hr, atom.Pre, atom.Main, atom.Header, atom.Footer}
	pressed  = []atom.Atom{atom.A, atom.Button, atom.Select, atom.Textarea, atom.Input, atom.Label}
	optional = map[atom.Atom]bool{atom.Option: true, atom.Li: true, atom.Td: true, atom.Th: true, atom.Tr: true,
		atom.P: true}
)

// invalid names what is no right HTML in a page.
func invalid(page string) []string {
	var wrong []string
	var open []atom.Atom
	ids := map[string]bool{}
	var fors []string
	say := func(format string, args ...any) { wrong = append(wrong, fmt.Sprintf(format, args...)) }
	z := html.NewTokenizer(strings.NewReader(page))
	svg := 0
	for {
		kind := z.Next()
		if kind == html.ErrorToken {
			break
		}
		token := z.Token()
		if token.Data == "svg" && kind == html.StartTagToken {
			svg++
		}
		if token.Data == "svg" && kind == html.EndTagToken {
			svg--
			continue
		}
		if svg > 0 || token.DataAtom == 0 {
			continue
		}
		switch kind {
		case html.StartTagToken, html.SelfClosingTagToken:
			for _, a := range token.Attr {
				if a.Key == "id" {
					if ids[a.Val] || a.Val == "" {
						say("id %q stands twice or is empty", a.Val)
					}
					ids[a.Val] = true
				}
				if a.Key == "maxlength" {
					say("maxlength cuts what is pasted, counts other than characters, and says nothing")
				}
				if a.Key == "for" && token.DataAtom == atom.Label {
					fors = append(fors, a.Val)
				}
			}
			if token.DataAtom == atom.Img && !slices.ContainsFunc(token.Attr,
				func(a html.Attribute) bool { return a.Key == "alt" }) {
				say("<img> without alt")
			}
			for _, above := range open {
				if slices.Contains(phrasing, above) && slices.Contains(flow, token.DataAtom) &&
					(above != atom.Summary || token.DataAtom == atom.Details) {
					say("<%s> in <%s>", token.Data, above)
				}
				if (above == atom.A || above == atom.Button) && slices.Contains(pressed, token.DataAtom) {
					say("<%s> in <%s>", token.Data, above)
				}
				if above == atom.Form && token.DataAtom == atom.Form {
					say("a form in a form")
				}
			}
			if !slices.Contains(void, token.DataAtom) && kind == html.StartTagToken {
				open = append(open, token.DataAtom)
			}
		case html.EndTagToken:
			for len(open) > 0 && open[len(open)-1] != token.DataAtom && optional[open[len(open)-1]] {
				open = open[:len(open)-1]
			}
			if len(open) == 0 || open[len(open)-1] != token.DataAtom {
				say("</%s> closes nothing that is open: %v", token.Data, open)
				continue
			}
			open = open[:len(open)-1]
		}
	}
	for _, id := range fors {
		if !ids[id] {
			say("a label is for %q, which is not there", id)
		}
	}
	if len(open) > 0 {
		say("%v is not closed", open)
	}
	slices.Sort(wrong)
	return slices.Compact(wrong)
}

func TestInvalidHTMLIsSeen(t *testing.T) {
	assert.Empty(t, invalid(`<div><p>a <b>b</b><br></p><ul><li>a<li>b</ul><label for="x">x</label><input id="x"></div>`))
	for _, bad := range []string{`<span><details></details></span>`, `<p><div></div></p>`, `<div></p></div>`,
		`<b id="x"></b><i id="x"></i>`,
		`<a><button></button></a>`, `<img>`, `<label for="y"></label>`, `<div>`, `<form><form></form></form>`,
		`<input maxlength="60">`} {
		assert.NotEmpty(t, invalid(bad), bad)
	}
}
