package customers

import (
	"encoding/json"
	"regexp"
	"slices"
	"strings"

	"itemrack/core/customer"
	"itemrack/store/internal/db"
	"itemrack/store/office"
)

// Traces are what the shop knows a customer by: the rows that were merged into one, through as many merges as there
// were, and the texts in them. It is read before they are cleared.
type Traces struct {
	ids          []uint64
	names, mails []string
	texts        []string // all of them, of three signs and more
}

// TracesOf reads the traces of a customer.
func TracesOf(tx db.Tx, id uint64) (Traces, error) {
	var rows []Customer
	err := db.SQL(tx.Q).Raw(`WITH RECURSIVE merged (id) AS (SELECT id FROM customer WHERE id = ? UNION
		SELECT c.id FROM customer c JOIN merged m ON c.merged_into = m.id)
		SELECT c.* FROM customer c JOIN merged m ON m.id = c.id FOR UPDATE`, id).Scan(&rows).Error
	var t Traces
	for _, r := range rows {
		t.ids = append(t.ids, r.ID)
		t.names = append(t.names, r.Name)
		t.mails = append(t.mails, r.Mail)
		t.texts = append(t.texts, r.Name, r.Mail, r.Phone, r.Note, customer.Code(r.ID))
		t.texts = append(t.texts, strings.Split(r.Address, "\n")...)
	}
	tooShort := func(text string) bool { return len([]rune(strings.TrimSpace(text))) < 3 }
	for _, list := range []*[]string{&t.names, &t.mails, &t.texts} {
		slices.Sort(*list)
		*list = slices.DeleteFunc(slices.Compact(*list), tooShort)
	}
	return t, err
}

// Forget clears what is known of a customer: in the rows that were merged into it, in baskets, in what somebody said
// yes to, in what says with whom goods are, in the results that are kept for requests that come again, and in what was
// printed and mailed. Documents and figures stay.
func Forget(tx db.Tx, row Customer, t Traces) error {
	ids := db.IDs(t.ids)
	b := new(db.Batch)
	b.Add("UPDATE customer SET name = ?, name_key = ?, mail = '', mail_key = '', phone = '', phone_key = '', "+
		"address = '', note = '', forgotten_at = ? WHERE id <> ? AND id IN ("+ids+")",
		row.Name, row.NameKey, row.ForgottenAt, row.ID)
	b.Add("UPDATE basket SET name = IF(name = '', '', ?), note = '' WHERE customer_id IN ("+ids+")", customer.Code(row.ID))
	for _, name := range t.names {
		whole := `(?<![\p{L}\p{N}])` + regexp.QuoteMeta(name) + `(?![\p{L}\p{N}])` // Ann is not within Joanna
		b.Add("UPDATE approval SET what = REGEXP_REPLACE(what, ?, ?) WHERE what REGEXP ?", whole, row.Name, whole)
		b.Add("UPDATE basket SET name = ? WHERE name REGEXP ?", customer.Code(row.ID), whole)
		b.Add("UPDATE held_by SET with_whom = ? WHERE with_whom REGEXP ?", customer.Code(row.ID), whole)
	}
	for _, mail := range t.mails {
		b.Add("DELETE FROM mail WHERE recipient = ? OR raw LIKE ?", mail, "%"+db.Like(mail)+"%")
	}
	of := " WHERE d.id IN (SELECT document_id FROM sale WHERE customer_id IN (" + ids + ") UNION SELECT document_id " +
		"FROM sale_return WHERE customer_id IN (" + ids + "))"
	b.Add("DELETE p FROM print_job p JOIN document d ON p.title IN (CONCAT('Sale ', d.number), " +
		"CONCAT('Sale ', d.number, ', again'), CONCAT('Return ', d.number), CONCAT('Gift receipt ', d.number))" + of)
	b.Add("DELETE m FROM mail m JOIN document d ON m.subject LIKE CONCAT('%', d.number, '%')" + of)
	for _, text := range t.texts {
		like := "%" + db.Like(asJSON(text)) + "%"
		b.Add("UPDATE request_key SET result = ? WHERE result LIKE ?", office.Unkept, like)
		b.Add("DELETE FROM print_job WHERE pages LIKE ?", like)
	}
	return b.Run(tx)
}

// asJSON is how a text stands in JSON, without its signs of quotation.
func asJSON(text string) string {
	data, err := json.Marshal(text)
	if err != nil {
		return text
	}
	return strings.Trim(string(data), `"`)
}
