package book_test

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/stock"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/internal/db"
	"itemrack/store/migrations"
	"itemrack/store/office"
)

var ctx = context.Background()

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func TestMigrateTwice(t *testing.T) {
	s := testkit.New(t)
	require.NoError(t, migrations.Migrate(ctx, s.Store), "up to date is fine")
	require.NoError(t, s.Store.Ping(ctx))
}

func TestOpenSaysWhatIsWrong(t *testing.T) {
	_, err := db.Open("nonsense")
	assert.ErrorContains(t, err, "database address")
	_, err = db.Open(db.DSN("itemrack", "itemrack", "127.0.0.1:1", "x"))
	assert.ErrorContains(t, err, "reach the database at 127.0.0.1:1")
}

// TestNumbersHaveNoGaps takes numbers from many transactions at once, some of
// which are given up.
func TestNumbersHaveNoGaps(t *testing.T) {
	s := testkit.New(t)
	var mutex sync.Mutex
	taken := map[uint64]int{}
	var wait sync.WaitGroup
	errGivenUp := errors.New("given up")
	for i := range 60 {
		wait.Go(func() {
			var n uint64
			err := s.Store.Do(ctx, func(tx db.Tx) error {
				var err error
				if n, err = book.NextNumber(tx, "test", 1); err == nil && i%3 == 0 {
					err = errGivenUp
				}
				return err
			})
			if i%3 == 0 {
				assert.ErrorIs(t, err, errGivenUp)
				return
			}
			if assert.NoError(t, err) {
				mutex.Lock()
				taken[n]++
				mutex.Unlock()
			}
		})
	}
	wait.Wait()
	for n := uint64(1); n <= 40; n++ {
		assert.Equal(t, 1, taken[n], n)
	}
	require.NoError(t, s.Store.Do(ctx, func(tx db.Tx) error {
		n, err := book.NextNumber(tx, "block", 10)
		assert.Equal(t, uint64(1), n)
		next, err2 := book.NextNumber(tx, "block", 1)
		assert.Equal(t, uint64(11), next)
		return errors.Join(err, err2)
	}))
}

// TestDeadlocksAreTriedAgain locks two things in opposite orders at once.
func TestDeadlocksAreTriedAgain(t *testing.T) {
	s := testkit.New(t)
	for _, name := range []string{"a", "b"} {
		require.NoError(t, s.Store.Do(ctx, func(tx db.Tx) error { _, err := book.NextNumber(tx, name, 1); return err }))
	}
	var wait sync.WaitGroup
	var tries [2]int
	for i, order := range [][2]string{{"a", "b"}, {"b", "a"}} {
		wait.Go(func() {
			err := s.Store.Do(ctx, func(tx db.Tx) error {
				tries[i]++
				if _, err := book.NextNumber(tx, order[0], 1); err != nil {
					return err
				}
				if tries[i] == 1 {
					time.Sleep(150 * time.Millisecond)
				}
				_, err := book.NextNumber(tx, order[1], 1)
				return err
			})
			assert.NoError(t, err)
		})
	}
	wait.Wait()
	assert.Greater(t, tries[0]+tries[1], 2, "one of them was tried again")
}

func TestDoEndsWithItsContext(t *testing.T) {
	s := testkit.New(t)
	ended, cancel := context.WithCancel(ctx)
	cancel()
	assert.Error(t, s.Store.Do(ended, func(db.Tx) error { return nil }))
}

func TestRequestKeys(t *testing.T) {
	s := testkit.New(t)
	did := 0
	once := func(key string) string {
		answer := "done"
		require.NoError(t, office.Once(ctx, s.Store, key, "", time.Now().UTC(), db.Ahead{}, func(db.Tx) (string, error) {
			did++
			return answer, nil
		}, func(result string) error {
			answer = "again " + result
			return nil
		}))
		return answer
	}
	assert.Equal(t, "done, again done, 1", fmt.Sprint(once("k"), ", ", once("k"), ", ", did))
	assert.Equal(t, "done, done, 3", fmt.Sprint(once(""), ", ", once(""), ", ", did), "without a key each is done")
	err := office.Once(ctx, s.Store, "wrong", "", time.Now().UTC(), db.Ahead{},
		func(db.Tx) (string, error) { return "", errors.New("refused") }, func(string) error { return nil })
	require.ErrorContains(t, err, "refused")
	assert.Equal(t, "done", once("wrong"), "what was refused may be asked for again")
}

func TestWebSessions(t *testing.T) {
	s := testkit.New(t)
	kept := office.WebSessions(s.Store)
	require.NoError(t, kept.Set("a", []byte("one"), time.Hour))
	require.Error(t, kept.Set("a", []byte("two"), time.Hour), "what a session holds never changes")
	require.NoError(t, kept.Set("gone", []byte("x"), time.Millisecond))
	require.NoError(t, kept.SetWithContext(ctx, "for good", []byte("y"), 0))
	time.Sleep(5 * time.Millisecond)
	data, err := kept.Get("a")
	require.NoError(t, err)
	assert.Equal(t, "one", string(data))
	data, err = kept.GetWithContext(ctx, "gone")
	require.NoError(t, err)
	assert.Nil(t, data)
	require.NoError(t, kept.Sweep())
	require.NoError(t, kept.Delete("a"))
	require.ErrorIs(t, kept.Delete("a"), office.ErrNoSession)
	data, err = kept.Get("a")
	require.NoError(t, err)
	assert.Nil(t, data)
	data, err = kept.Get("for good")
	require.NoError(t, err)
	assert.Equal(t, "y", string(data))
	require.NoError(t, kept.ResetWithContext(ctx))
	data, err = kept.Get("for good")
	require.NoError(t, err)
	assert.Nil(t, data)
	assert.ErrorIs(t, kept.DeleteWithContext(ctx, "x"), office.ErrNoSession)
	assert.NoError(t, kept.Close())
}

// TestTheDoorRefuses hands the door documents that do not fit, and holds that
// nothing of them is written.
func TestTheDoorRefuses(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	before := counts(t, s)
	entry := stock.Entry{
		Line:          1,
		Key:           stock.Key{Variant: v, Shelf: 1, Condition: stock.ForSale},
		Quantity:      d("-9"),
		Value:         d("-9"),
		QuantityAfter: d("-4"),
		ValueAfter:    d("-4"),
	}
	wrong := entry
	wrong.Quantity, wrong.Value, wrong.QuantityAfter, wrong.ValueAfter = d("-1"), d("-1"), d("99"), d("99")
	fine := wrong
	fine.QuantityAfter, fine.ValueAfter = d("4"), d("4")
	post := func(doc stock.Document) error {
		return s.Store.Do(ctx, func(tx db.Tx) error {
			held, err := book.Hold(tx, []uint64{v}, nil)
			if err != nil {
				return err
			}
			doc.Branch, doc.By, doc.HappenedAt, doc.RecordedAt = 1, s.Maren.ID, s.Now(), s.Now()
			_, err = book.Post(tx, held, doc)
			return err
		})
	}
	assert.True(t,
		fault.Is(post(stock.Document{Kind: stock.Sale, Number: "X-1", Entries: []stock.Entry{entry}}), fault.Refused),
		"below zero")
	assert.ErrorContains(t, post(stock.Document{Kind: stock.Sale, Number: "X-2", Entries: []stock.Entry{wrong}}),
		"leaves 4 worth 4")
	assert.ErrorContains(t, post(stock.Document{Kind: stock.Sale, Number: "D-0001", Entries: []stock.Entry{fine}}),
		"D-0001")
	assert.Equal(t, before, counts(t, s), "nothing was written")
	require.NoError(
		t,
		post(
			stock.Document{
				Kind:    stock.Sale,
				Number:  "X-3",
				Entries: []stock.Entry{fine},
				Postings: []ledger.Posting{{Account: ledger.Stock, Amount: d("-1")},
					{Account: ledger.CostOfSales, Amount: d("1")}},
			},
		),
	)
	_, err := book.Look(s.Store.Read(ctx), []uint64{v, 99})
	assert.True(t, fault.Is(err, fault.NotFound))
}

// counts says how many documents there are, and what is on hand.
func counts(t *testing.T, s *testkit.Shop) string {
	t.Helper()
	documents, _, err := book.Documents(s.Store.Read(ctx), "", 1)
	require.NoError(t, err)
	rows, _, err := book.StockList(s.Store.Read(ctx), book.StockQuery{}, 1)
	require.NoError(t, err)
	return decimal.New(int64(len(documents)), 0).
		String() +
		" " + rows[0].Quantity.String() + " " + rows[0].Value.String()
}

// TestHoldKeepsOthersOut holds a variant in one transaction and sees another
// wait for it.
func TestHoldKeepsOthersOut(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	held, release, done := make(chan struct{}), make(chan struct{}), make(chan time.Time)
	go func() {
		_ = s.Store.Do(ctx, func(tx db.Tx) error {
			_, err := book.Hold(tx, []uint64{v}, nil)
			close(held)
			<-release
			return err
		})
	}()
	<-held
	go func() {
		_ = s.Store.Do(ctx, func(tx db.Tx) error { _, err := book.Hold(tx, []uint64{v}, nil); return err })
		done <- time.Now()
	}()
	select {
	case <-done:
		t.Fatal("the second did not wait")
	case <-time.After(120 * time.Millisecond):
	}
	_, err := book.Look(s.Store.Read(ctx), []uint64{v})
	assert.NoError(t, err, "looking does not wait")
	close(release)
	<-done
}

func TestCountingStatements(t *testing.T) {
	s := testkit.New(t)
	counted, n := db.Counting(ctx)
	_, err := office.Branches(s.Store.Read(counted))
	require.NoError(t, err)
	_, err = goods.Suppliers(s.Store.Read(counted))
	require.NoError(t, err)
	assert.Equal(t, int64(2), n.Load())
}

func TestListsWithFilters(t *testing.T) {
	s := testkit.New(t)
	s.Vest(t)
	s.Simple(t, "100 % wool cap", "counted", "9.00")
	list := func(words string, category uint64) (names []string) {
		rows, _, err := goods.Products(s.Store.Read(ctx), goods.ListFilter{Words: words, Category: category}, 1)
		require.NoError(t, err)
		for _, r := range rows {
			names = append(names, r.Name)
		}
		return names
	}
	assert.Equal(t, []string{"100 % wool cap", "Tidewater rash vest"}, list("", 0))
	assert.Equal(t, []string{"100 % wool cap", "Tidewater rash vest"}, list("", 1),
		"a category takes in those below it")
	assert.Equal(t, []string{"Tidewater rash vest"}, list("", 2))
	assert.Equal(t, []string{"Tidewater rash vest"}, list("vest rash", 0))
	assert.Equal(t, []string{"100 % wool cap"}, list("10", 0))
	assert.Empty(t, list("%", 0), "a percent sign is no pattern")
	assert.Empty(t, list("vest", 99))
	rows, more, err := goods.Products(s.Store.Read(ctx), goods.ListFilter{}, 2)
	require.NoError(t, err)
	assert.Empty(t, rows)
	assert.False(t, more)
	full, _, err := goods.Products(s.Store.Read(ctx), goods.ListFilter{Words: "vest"}, 1)
	require.NoError(t, err)
	assert.Equal(
		t,
		"6 34.95 36.95",
		decimal.New(int64(full[0].Variants), 0).
			String()+
			" "+full[0].PriceMin.StringFixed(
			2,
		)+" "+full[0].PriceMax.StringFixed(2),
	)
}

func TestABarcodeThatExistsNamesItsOwner(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	other := s.Simple(t, "Whistle", "counted", "4.00")
	err := s.Store.Do(ctx,
		func(tx db.Tx) error { return goods.AddBarcode(tx, other, nil, "0"+made.Variants[0].Barcode) })
	assert.ErrorContains(t, err, "belongs to Tidewater rash vest, Coral · S")
	require.NoError(t, s.Store.Do(ctx, func(tx db.Tx) error { return goods.AddBarcode(tx, other, nil, "00123") }))
	owner, name, err := goods.Owner(s.Store.Read(ctx), "00123")
	require.NoError(t, err)
	assert.Equal(t, other, owner)
	assert.Equal(t, "Whistle", name)
	owner, _, err = goods.Owner(s.Store.Read(ctx), "123")
	require.NoError(t, err)
	assert.Zero(t, owner)
}
