package buying

import "itemrack/store/internal/db"

// Hand is how far a delivery has come that is taken in by hand: the shelf that what comes next goes
// to, 0 for the default one, and the goods that were scanned last.
type Hand struct {
	Shelf   uint64
	Variant uint64
}

const handSelect = `SELECT id, COALESCE(hand_shelf_id, 0) AS shelf, COALESCE(hand_variant_id, 0) AS variant FROM
	delivery WHERE hand_key = ?`

// HandOf finds the delivery of a device's session; 0 for none yet.
func HandOf(q db.Q, session string) (uint64, Hand, error) { return hand(q, handSelect, session) }

// LockHand is HandOf, with the delivery locked until the transaction ends.
func LockHand(tx db.Tx, session string) (uint64, Hand, error) {
	return hand(tx.Q, handSelect+" FOR UPDATE", session)
}

func hand(q db.Q, query, session string) (uint64, Hand, error) {
	var row struct {
		ID uint64
		Hand
	}
	err := db.SQL(q).Raw(query, session).Scan(&row).Error
	return row.ID, row.Hand, err
}

// KeepHand notes how far a delivery has come.
func KeepHand(tx db.Tx, delivery uint64, session string, at Hand) error {
	return db.SQL(tx.Q).
		Exec("UPDATE delivery SET hand_key = ?, hand_shelf_id = NULLIF(?, 0), hand_variant_id = NULLIF(?, 0) WHERE id = ?",
			session, at.Shelf, at.Variant, delivery).
		Error
}

// OrderNumbers are the numbers of some orders.
func OrderNumbers(q db.Q, orders []uint64) ([]string, error) {
	var numbers []string
	if len(orders) == 0 {
		return numbers, nil
	}
	return numbers, db.SQL(q).Raw("SELECT number FROM purchase_order WHERE id IN ? ORDER BY id",
		orders).Scan(&numbers).Error
}
