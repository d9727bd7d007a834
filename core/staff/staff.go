package staff

import (
	"slices"
	"strings"

	"itemrack/core/fault"
)

// Role is what a person does in the shop.
type Role string

// The roles.
const (
	Manager Role = "manager"
	Clerk   Role = "register"
	Stock   Role = "stock"
)

// Roles lists the roles.
var Roles = []Role{Manager, Clerk, Stock}

// Deed is one thing a person can do.
type Deed string

// The deeds.
const (
	DeedLook     Deed = "look"
	DeedCatalog  Deed = "catalog" // make and change products
	DeedPrices   Deed = "prices"
	DeedSettings Deed = "settings"
	DeedLabels   Deed = "labels"
	DeedReceive  Deed = "receive"
	DeedOrder    Deed = "order"
	DeedSupplier Deed = "suppliers"
	DeedBill     Deed = "enter bills"
	DeedPay      Deed = "pay"
	DeedSendBack Deed = "send back"
	DeedNewGoods Deed = "new goods" // make products of goods that come in
	DeedDrawer   Deed = "drawer"
	DeedSell     Deed = "sell"
	DeedReturn   Deed = "take back"
	DeedChange   Deed = "change condition"
	DeedKits     Deed = "make up kits"
	DeedCount    Deed = "count"
	DeedSettle   Deed = "settle a count"
	DeedReverse  Deed = "reverse"
	DeedCosts    Deed = "see costs"
	DeedVerify   Deed = "verify"
	DeedDevices  Deed = "devices"
	// What a person at a register may have to ask a manager for.
	DeedOffMore    Deed = "give off more"
	DeedPrice      Deed = "set a price at the register"
	DeedBelowCost  Deed = "sell below cost"
	DeedNoReceipt  Deed = "take back without a receipt"
	DeedRefundCash Deed = "refund in cash"
	DeedOpenBox    Deed = "open the drawer"
	DeedVoid       Deed = "void"
	DeedStock      Deed = "set stock"
	DeedPeek       Deed = "look into a drawer"
	DeedCustomer   Deed = "customers"
	DeedForget     Deed = "forget customers"
	DeedMakeHere   Deed = "make a product at the register"
	DeedAccount    Deed = "sell on account"
	DeedTerms      Deed = "give a customer other prices or terms"
	DeedMoneyAlone Deed = "give money back without goods"
	// Goods in their places.
	DeedPlaces     Deed = "set up shelves"
	DeedMove       Deed = "move goods"
	DeedSend       Deed = "send goods to other branches"
	DeedWriteOff   Deed = "settle what is lost between branches"
	DeedSchedule   Deed = "schedule counts"
	DeedSettleMore Deed = "settle a count beyond the tolerance"
)

// Permissions is who may do what.
var Permissions = map[Deed][]Role{
	DeedLook:     {Manager, Clerk, Stock},
	DeedCatalog:  {Manager},
	DeedPrices:   {Manager},
	DeedSettings: {Manager},
	DeedLabels:   {Manager, Clerk, Stock},
	DeedReceive:  {Manager, Clerk, Stock},
	DeedOrder:    {Manager, Stock},
	DeedSupplier: {Manager},
	DeedBill:     {Manager},
	DeedPay:      {Manager},
	DeedSendBack: {Manager, Stock},
	DeedNewGoods: {Manager, Stock},
	DeedDrawer:   {Manager, Clerk},
	DeedSell:     {Manager, Clerk},
	DeedReturn:   {Manager, Clerk},
	DeedChange:   {Manager, Clerk, Stock},
	DeedKits:     {Manager, Stock},
	DeedCount:    {Manager, Clerk, Stock},
	DeedSettle:   {Manager, Stock},
	DeedReverse:  {Manager},
	DeedCosts:    {Manager, Stock},
	DeedVerify:   {Manager, Stock},
	DeedDevices:  {Manager, Clerk, Stock},

	DeedOffMore:    {Manager},
	DeedPrice:      {Manager},
	DeedBelowCost:  {Manager},
	DeedNoReceipt:  {Manager},
	DeedRefundCash: {Manager},
	DeedOpenBox:    {Manager},
	DeedVoid:       {Manager},
	DeedStock:      {Manager, Stock},
	DeedPeek:       {Manager},
	DeedCustomer:   {Manager, Clerk},
	DeedForget:     {Manager},
	DeedMakeHere:   {Manager, Clerk},
	DeedAccount:    {Manager, Clerk},
	DeedTerms:      {Manager},
	DeedMoneyAlone: {Manager},

	DeedPlaces:     {Manager, Stock},
	DeedMove:       {Manager, Clerk, Stock},
	DeedSend:       {Manager, Clerk, Stock},
	DeedWriteOff:   {Manager, Stock},
	DeedSchedule:   {Manager, Stock},
	DeedSettleMore: {Manager},
}

// Actor is the person who does a deed.
type Actor struct {
	ID       uint64
	Name     string
	Role     Role
	Branch   uint64   // where the person is, unless another one is said
	Branches []uint64 // where the person works; a manager everywhere
	Version  uint64   // counts up when what the person signs in with changes
	ByPIN    bool     // came with a PIN: no more than the work at a register
	Locked   bool     // the register waits for a PIN
}

// At refuses a deed at a branch where the person does not work. Looking is free.
func (a Actor) At(branch uint64, name string) error {
	if a.Role == Manager || branch == a.Branch || slices.Contains(a.Branches, branch) {
		return nil
	}
	if name == "" {
		name = "that branch"
	}
	return &fault.Error{Kind: fault.Forbidden, Field: "branch_id", Value: name, Want: "a branch where " + a.Name +
		" works",
		Detail: a.Name + " does not work at " + name + ". A manager can change that in the settings."}
}

// Can reports whether the person may do a deed.
func (a Actor) Can(deed Deed) bool {
	if a.Locked || a.ByPIN && !byPIN[deed] {
		return false
	}
	for _, role := range Permissions[deed] {
		if role == a.Role {
			return true
		}
	}
	return false
}

// WithPassword refuses to change how a person signs in to somebody who came with a PIN, or to a
// register that waits for one.
func (a Actor) WithPassword() error {
	if !a.ByPIN && !a.Locked {
		return nil
	}
	return &fault.Error{Kind: fault.Forbidden, Field: "password", Want: "to sign in with the password",
		Detail: a.Name + " is here by PIN. To change how one signs in, sign in with the password."}
}

// does says in words what each deed does.
var does = map[Deed]string{
	DeedLook:     "look into the shop",
	DeedCatalog:  "change the catalog",
	DeedPrices:   "set prices",
	DeedSettings: "change the settings",
	DeedLabels:   "print labels",
	DeedReceive:  "take deliveries in",
	DeedOrder:    "order goods",
	DeedSupplier: "change suppliers",
	DeedBill:     "enter the bills of suppliers",
	DeedPay:      "pay suppliers",
	DeedSendBack: "send goods back to suppliers",
	DeedNewGoods: "make products of goods that come in",
	DeedDrawer:   "open a drawer and cash it up",
	DeedSell:     "sell",
	DeedReturn:   "take things back",
	DeedChange:   "put goods into another condition",
	DeedKits:     "make up kits",
	DeedCount:    "count shelves",
	DeedSettle:   "settle a count",
	DeedReverse:  "undo a document",
	DeedCosts:    "see what things cost",
	DeedVerify:   "look whether the records agree",
	DeedDevices:  "look after the devices",

	DeedOffMore:    "give off more than the shop lets everybody give",
	DeedPrice:      "set another price at the register",
	DeedBelowCost:  "sell below cost",
	DeedNoReceipt:  "take back without a receipt",
	DeedRefundCash: "refund in cash what was paid otherwise",
	DeedOpenBox:    "open the drawer without a sale",
	DeedVoid:       "make a sale void",
	DeedStock:      "set stock to what is there",
	DeedPeek:       "look what should be in a drawer",
	DeedCustomer:   "change customers",
	DeedForget:     "merge and forget customers",
	DeedMakeHere:   "make a product at the register",
	DeedAccount:    "sell on account",
	DeedTerms:      "give a customer other prices or terms",
	DeedMoneyAlone: "give money back for goods that the customer keeps",

	DeedPlaces:     "set up shelves",
	DeedMove:       "move goods from shelf to shelf",
	DeedSend:       "send goods from branch to branch",
	DeedWriteOff:   "settle what is lost or over between branches",
	DeedSchedule:   "set up counts that come round",
	DeedSettleMore: "settle a count that comes to more than the shop tolerates",
}

// is says in words who has each role.
var is = map[Role]string{Manager: "a manager", Clerk: "a clerk at the register", Stock: "a stock keeper"}

// May returns a Forbidden error when the person may not do a deed.
func (a Actor) May(deed Deed) error {
	switch {
	case a.Can(deed):
		return nil
	case a.Locked:
		return &fault.Error{Kind: fault.Forbidden, Field: "pin", Want: "the PIN of whoever sells",
			Detail: "This register is locked. Come back to it with a PIN."}
	case a.ByPIN && slices.Contains(Permissions[deed], a.Role):
		return &fault.Error{Kind: fault.Forbidden, Field: "password", Want: "to sign in with the password",
			Detail: a.Name + " is here by PIN. To " + does[deed] + ", sign in with the password."}
	}
	var who []string
	for _, role := range Permissions[deed] {
		who = append(who, is[role])
	}
	may := strings.Join(who, " or ")
	return &fault.Error{Kind: fault.Forbidden, Field: "role", Value: string(a.Role), Want: may,
		Detail: "Only " + may + " may " + does[deed] + "; " + a.Name + " is " + is[a.Role] + "."}
}
