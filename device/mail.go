package device

import (
	"bytes"
	"fmt"
	"time"

	"github.com/wneessen/go-mail"

	"itemrack/core/fault"
)

// Letter is a mail to be sent.
type Letter struct {
	From    string // the shop's name
	To      string
	Subject string
	Text    string
	ID      string // of the message, the same for the same letter
	At      time.Time
	Files   []File
}

// File is what is attached to a mail.
type File struct {
	Name, Type string
	Data       []byte
}

// domain is the one that mails come from while the mailbox is a stand-in (RFC 2606).
const domain = "shop.example"

// Compose writes a letter as RFC 5322 and MIME have it.
func Compose(l Letter) ([]byte, error) {
	m := mail.NewMsg(mail.WithNoDefaultUserAgent())
	if err := m.FromFormat(l.From, "orders@"+domain); err != nil {
		return nil, fmt.Errorf("mail from %s: %w", l.From, err)
	}
	if err := m.To(l.To); err != nil {
		return nil, fault.Field("to", l.To, "an address such as orders@example.com", "%q is not a mail address.", l.To)
	}
	m.Subject(l.Subject)
	m.SetDateWithValue(l.At)
	m.SetMessageIDWithValue(l.ID + "@" + domain)
	m.SetBodyString(mail.TypeTextPlain, l.Text)
	for _, f := range l.Files {
		if err := m.AttachReader(f.Name, bytes.NewReader(f.Data),
			mail.WithFileContentType(mail.ContentType(f.Type))); err != nil {
			return nil, fmt.Errorf("attach %s: %w", f.Name, err)
		}
	}
	var out bytes.Buffer
	_, err := m.WriteTo(&out)
	return out.Bytes(), err
}
