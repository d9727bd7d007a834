package office_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"itemrack/core/staff"
)

// TestPermissions holds the table of who may do what, in words.
func TestPermissions(t *testing.T) {
	want := map[staff.Role]string{
		staff.Manager: "look catalog prices settings labels receive drawer sell take back change condition make up " +
			"kits count settle a count reverse verify devices see costs order suppliers enter bills pay send back new goods " +
			"give off more set a price at the register sell below cost take back without a receipt refund in cash " +
			"open the drawer void set stock look into a drawer customers forget customers make a product at the register " +
			"sell on account set up shelves move goods send goods to other branches settle what is lost between branches " +
			"schedule counts settle a count beyond the tolerance give a customer other prices or terms " +
			"give money back without goods",
		staff.Clerk: "look labels receive drawer sell take back change condition count devices customers make a " +
			"product at the " +
			"register sell on account move goods send goods to other branches",
		staff.Stock: "look labels receive change condition make up kits count settle a count verify devices see " +
			"costs order " +
			"send back new goods set stock set up shelves move goods send goods to other branches settle what is lost between " +
			"branches schedule counts",
	}
	order := []staff.Deed{staff.DeedLook, staff.DeedCatalog, staff.DeedPrices, staff.DeedSettings, staff.DeedLabels,
		staff.DeedReceive, staff.DeedDrawer, staff.DeedSell, staff.DeedReturn, staff.DeedChange, staff.DeedKits,
		staff.DeedCount, staff.DeedSettle, staff.DeedReverse, staff.DeedVerify, staff.DeedDevices, staff.DeedCosts,
		staff.DeedOrder, staff.DeedSupplier, staff.DeedBill, staff.DeedPay, staff.DeedSendBack, staff.DeedNewGoods,
		staff.DeedOffMore, staff.DeedPrice, staff.DeedBelowCost, staff.DeedNoReceipt, staff.DeedRefundCash, staff.DeedOpenBox,
		staff.DeedVoid, staff.DeedStock, staff.DeedPeek, staff.DeedCustomer, staff.DeedForget, staff.DeedMakeHere,
		staff.DeedAccount, staff.DeedPlaces, staff.DeedMove, staff.DeedSend, staff.DeedWriteOff, staff.DeedSchedule,
		staff.DeedSettleMore, staff.DeedTerms, staff.DeedMoneyAlone}
	assert.Len(t, staff.Permissions, len(order))
	for role, words := range want {
		var can []string
		for _, deed := range order {
			if (staff.Actor{Role: role}).Can(deed) {
				can = append(can, string(deed))
			}
		}
		assert.Equal(t, words, strings.Join(can, " "), role)
	}
	err := staff.Actor{Name: "Tobi Ashdown", Role: staff.Clerk}.May(staff.DeedReverse)
	assert.EqualError(t, err, "Only a manager may undo a document; Tobi Ashdown is a clerk at the register.")
	assert.Error(t, staff.Actor{}.May(staff.DeedLook), "nobody may nothing")
	pin := staff.Actor{Name: "Nora Quell", Role: staff.Manager, ByPIN: true}
	assert.NoError(t, pin.May(staff.DeedVoid), "what is done at a register")
	assert.EqualError(t, pin.May(staff.DeedSettings),
		"Nora Quell is here by PIN. To change the settings, sign in with the password.")
	pin.Locked = true
	assert.Error(t, pin.May(staff.DeedSell), "a locked register waits for a PIN")
}
