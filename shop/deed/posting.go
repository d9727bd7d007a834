package deed

import (
	"fmt"
	"time"

	"itemrack/core/stock"
	"itemrack/store"
	"itemrack/store/book"
)

// Deref is a number that may be missing, as 0.
func Deref(id *uint64) uint64 {
	if id == nil {
		return 0
	}
	return *id
}

// Reference is a number that may be left out as 0.
func Reference(id uint64) *uint64 {
	if id == 0 {
		return nil
	}
	return &id
}

// NextNumber takes the next number of a kind of document: "D-0207".
func NextNumber(tx store.Tx, kind stock.Kind) (string, error) {
	n, err := book.NextNumber(tx, "document "+kind.Prefix(), 1)
	return fmt.Sprintf("%s-%04d", kind.Prefix(), n), err
}

// Posted says which document a deed posted.
type Posted struct {
	Document uint64    `json:"document_id"`
	Number   string    `json:"number"`
	At       time.Time `json:"at"`
	Owed     string    `json:"owed,omitempty"` // why a card was not given its money yet
}

// PostLast is Post as the last that a deed does: the document's number in the database is in into once the deed is
// done, and kept with its result.
func PostLast(tx store.Tx, held stock.Holding, draft *stock.Draft, into *uint64, with ...book.With) error {
	doc, err := draft.Document()
	if err != nil {
		return err
	}
	return book.PostLast(tx, held, doc, into, with...)
}

// Post ends a draft and posts it, with the rows that belong to it.
func Post(tx store.Tx, held stock.Holding, draft *stock.Draft, with ...book.With) (Posted, error) {
	doc, err := draft.Document()
	if err != nil {
		return Posted{}, err
	}
	document, err := book.Post(tx, held, doc, with...)
	return Posted{Document: document, Number: doc.Number, At: doc.HappenedAt}, err
}
