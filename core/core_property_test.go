package core_test

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/barcode"
	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/letters"
	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/price"
	"itemrack/core/sale"
	"itemrack/core/search"
	"itemrack/core/serial"
	"itemrack/core/tax"
	"itemrack/core/unit"
)

// chance is the same for every run, so that what fails can be run again.
func chance(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 26)) }

// pence is an amount below most, in pence.
func pence(r *rand.Rand, most int64) decimal.Decimal { return decimal.New(r.Int64N(most), -2) }

func TestRefundsComeToWhatWasPaid(t *testing.T) {
	r := chance(2)
	for range 2000 {
		sold := sale.Sold{Quantity: decimal.New(1+r.Int64N(12), 0), Paid: pence(r, 90_000), Cost: pence(r, 50_000)}
		sold.Tax = tax.Included(sold.Paid, d("20"), money.Hundredth)
		paid, taxed, valued := decimal.Zero, decimal.Zero, decimal.Zero
		for sold.Back.LessThan(sold.Quantity) {
			q := decimal.New(1+r.Int64N(sold.Quantity.Sub(sold.Back).IntPart()), 0)
			back, err := sold.TakeBack(q)
			require.NoError(t, err)
			require.False(t, back.Amount.IsNegative())
			sold.Back, sold.Refunded, sold.TaxBack, sold.CostReturned = sold.Back.Add(q), sold.Refunded.Add(
				back.Amount), sold.TaxBack.Add(back.Tax), sold.CostReturned.Add(
				back.Cost,
			)
			paid, taxed, valued = paid.Add(back.Amount), taxed.Add(back.Tax), valued.Add(back.Cost)
		}
		require.Equal(t, []string{sold.Paid.StringFixed(2), sold.Tax.StringFixed(2), sold.Cost.StringFixed(2)},
			[]string{paid.StringFixed(2), taxed.StringFixed(2), valued.StringFixed(2)})
		_, err := sold.TakeBack(d("1"))
		require.True(t, fault.Is(err, fault.Refused), "nothing is left to take back")
	}
}

func TestADeliveryAlwaysBalances(t *testing.T) {
	r := chance(3)
	for range 1500 {
		bill := buying.Bill{
			CostsIncludeTax: r.IntN(2) == 0,
			Extra:           pence(r, 5000),
			ExtraPercent:    d("20"),
			Spread:          []buying.Spread{"", buying.ByValue, buying.ByQuantity}[r.IntN(3)],
		}
		lines := make([]buying.Line, 1+r.IntN(8))
		for i := range lines {
			lines[i] = buying.Line{
				Quantity: decimal.New(1+r.Int64N(40), 0),
				Cost:     decimal.New(r.Int64N(90_000_000), -6),
				Percent:  []decimal.Decimal{d("0"), d("5"), d("20")}[r.IntN(3)],
			}
		}
		totals, err := buying.Compute(bill, lines)
		require.NoError(t, err)
		require.NoError(t, ledger.Balanced(totals.Postings().List()))
		extra, value := decimal.Zero, decimal.Zero
		for _, l := range totals.Lines {
			require.True(t, l.Value.Equal(money.Hundredth.Round(l.Value)), "stock is kept in pence")
			extra, value = extra.Add(l.Extra), value.Add(l.Value)
		}
		require.True(t, extra.Equal(bill.Extra), "freight is spread to the last penny")
		require.True(t, value.Equal(totals.Net))
	}
	_, err := buying.Compute(buying.Bill{Spread: "weather"}, nil)
	assert.Equal(t, "spread", fault.Of(err).Field)
}

func TestTaxGoesThereAndBack(t *testing.T) {
	r := chance(4)
	for range 3000 {
		amount, percent := pence(r, 500_000), decimal.New(r.Int64N(300), -1)
		net := tax.With.Net(amount, percent, money.Hundredth)
		require.True(t, tax.With.Price(net, percent).Sub(amount).Abs().LessThanOrEqual(d("0.0065")),
			"%s with %s %% in it: half a penny of net at most", amount, percent)
		require.True(t, tax.Without.Net(amount, percent, money.Hundredth).Equal(amount))
		for _, basis := range []tax.Basis{tax.With, tax.Without} {
			gross, included := basis.Gross(amount, percent, money.Hundredth), basis.Tax(amount, percent,
				money.Hundredth)
			require.True(t, included.Equal(money.Hundredth.Round(included)))
			require.True(t, gross.GreaterThanOrEqual(included))
		}
		require.True(
			t,
			tax.Without.Gross(amount, percent, money.Hundredth).
				Equal(amount.Add(tax.On(amount, percent, money.Hundredth))),
		)
		require.True(t, tax.With.Gross(amount, percent, money.Hundredth).Equal(amount))
	}
	assert.NotEqual(t, tax.With.String(), tax.Without.String())
}

func TestAnEndingIsWhatItSays(t *testing.T) {
	r := chance(5)
	endings := []price.Ending{}
	for _, text := range []string{"1/0.95/nearest", "1/0.95/up", "1/0.95/down", "10/9/nearest", "10/9/up", "0.05/0/nearest", "5/4.99/down", "1/0/up"} {
		e, err := price.ParseEnding(text, money.Hundredth)
		require.NoError(t, err)
		endings = append(endings, e)
	}
	for range 4000 {
		amount, e := pence(r, 100_000).Add(d("0.01")), endings[r.IntN(len(endings))]
		got, _ := e.Apply(amount, money.Hundredth)
		require.True(t, got.IsPositive(), "%s with %s is %s", amount, e.Text(), got)
		require.True(t, got.Sub(e.End).Mod(e.Step).IsZero(), "%s with %s is %s", amount, e.Text(), got)
		switch {
		case e.Way == price.Up:
			require.True(t, got.GreaterThanOrEqual(amount) && got.Sub(amount).LessThan(e.Step), "%s with %s is %s",
				amount, e.Text(), got)
		case e.Way == price.Down && amount.GreaterThanOrEqual(e.End.Add(e.Step)):
			require.True(t, got.LessThanOrEqual(amount) && amount.Sub(got).LessThan(e.Step), "%s with %s is %s", amount,
				e.Text(), got)
		case e.Way == price.Nearest && amount.GreaterThanOrEqual(e.End.Add(e.Step)):
			require.True(t, got.Sub(amount).Abs().Mul(d("2")).LessThanOrEqual(e.Step), "%s with %s is %s", amount,
				e.Text(), got)
		}
		again, _ := e.Apply(got, money.Hundredth)
		require.True(t, again.Equal(got), "what ends so already stays")
	}
}

func TestACheckDigitCatchesAWrongDigit(t *testing.T) {
	r := chance(6)
	for range 1500 {
		body := make([]byte, []int{7, 11, 12, 13}[r.IntN(4)])
		for i := range body {
			body[i] = byte('0' + r.IntN(10))
		}
		right := ""
		for digit := byte('0'); digit <= '9'; digit++ {
			if _, err := barcode.Parse(string(body) + string(digit)); err == nil {
				require.Empty(t, right, "one check digit is right for %s", body)
				right = string(body) + string(digit)
			}
		}
		require.NotEmpty(t, right, string(body))
		at := r.IntN(len(right))
		wrong := right[:at] + string('0'+(right[at]-'0'+byte(1+r.IntN(9)))%10) + right[at+1:]
		_, err := barcode.Parse(wrong)
		require.Error(t, err, "%s for %s", wrong, right)
	}
}

func TestLettersOfAnyLanguage(t *testing.T) {
	for text, want := range map[string]string{"Größe": "groesse", "Ærø": "aero", "Żółć": "zolc", "L’Été": "lete", "9'6": "96", "Ｘ": "", "a-b c": "abc", "": ""} {
		assert.Equal(t, want, letters.Only(text), text)
	}
	assert.Equal(t, "l ete", letters.Plain("L Été"))
	r := chance(7)
	for range 500 {
		text := make([]rune, r.IntN(20))
		for i := range text {
			text[i] = rune(32 + r.IntN(600))
		}
		once := letters.Only(string(text))
		require.Equal(t, once, letters.Only(once), "what is plain stays")
		require.Equal(t, -1, strings.IndexFunc(once, func(r rune) bool { return !letters.Code(r) }))
	}
}

func TestASlipOfTheFingersIsFound(t *testing.T) {
	known := []string{"tidewater", "shoreline", "wetsuit", "paddle", "northfold", "neoprene", "rash", "vest"}
	r := chance(8)
	for range 800 {
		word := known[r.IntN(6)]
		at := 1 + r.IntN(len(word)-2)
		slip := map[int]string{0: word[:at] + word[at+1:], 1: word[:at] + "q" + word[at:], 2: word[:at] + "q" + word[at+1:], 3: word[:at-1] + word[at:at+1] + word[at-1:at] + word[at+1:]}[r.IntN(4)]
		if slip != word {
			require.Contains(t, search.Near(slip, known, 3), word, slip)
		}
	}
	assert.Empty(t, search.Near("zzzzzzzz", known, 3))
	assert.Empty(t, search.Query("  ,; "), "no words, no question")
}

func TestUnitsTakeWhatTheyCanHold(t *testing.T) {
	for _, u := range unit.All {
		again, err := unit.ByCode(u.Code)
		require.NoError(t, err)
		assert.Equal(t, u, again)
		finest := decimal.New(1, -u.Decimals)
		assert.NoError(t, u.Check("quantity", finest))
		assert.Error(t, u.Check("quantity", finest.Div(d("10"))),
			"a quantity finer than its unit is an error, not a rounding")
		q, err := u.Parse("quantity", u.Format(finest))
		require.NoError(t, err)
		assert.True(t, q.Equal(finest))
	}
	_, err := unit.ByCode("furlong")
	assert.Equal(t, "unit", fault.Of(err).Field)
	assert.Equal(t, "−3", unit.Piece.Format(d("-3")), "a true minus sign")
}

func TestSerialNumbersAsTheyAreTyped(t *testing.T) {
	list, err := serial.ReadList(" ab 12;CD34,\n\r ef\t56 ,, ")
	require.NoError(t, err)
	assert.Equal(t, []string{"AB12", "CD34", "EF56"}, list)
	_, err = serial.ReadList("ab12, AB 12")
	assert.ErrorContains(t, err, "twice")
	_, err = serial.ReadList(strings.Repeat("9", 41))
	assert.ErrorContains(t, err, "too long")
	day := time.Date(2027, 6, 30, 0, 0, 0, 0, time.UTC)
	lot := serial.Lot{Number: "K614", Expiry: day}
	assert.False(t, lot.Expired(day), "it sells on its expiry date")
	assert.True(t, lot.Expired(day.AddDate(0, 0, 1)), "not the day after")
	assert.False(t, serial.Lot{}.Expired(day), "without an expiry it keeps")
}

// even is a measure of a font whose letters are all alike.
func even(text string, _ paper.Face, size float64) float64 {
	return float64(len([]rune(text))) * size / 2
}

func TestWordsOnPaper(t *testing.T) {
	size, fits := paper.Fit(even, "ten little", paper.Face(""), 4, 2, 15)
	assert.True(t, fits)
	assert.InDelta(t, 3.0, size, 0.01)
	_, fits = paper.Fit(even, "far too long for it", paper.Face(""), 4, 2, 10)
	assert.False(t, fits)
	assert.Equal(t, "short", paper.Cut(even, "short", paper.Face(""), 2, 10))
	assert.Equal(t, "a name…", paper.Cut(even, "a name of some length", paper.Face(""), 2, 8))
	assert.Equal(t, "…", paper.Cut(even, "wide", paper.Face(""), 9, 1))
	r := chance(9)
	for range 500 {
		words := make([]string, 1+r.IntN(9))
		for i := range words {
			words[i] = strings.Repeat("m", 1+r.IntN(14))
		}
		text := strings.Join(words, " ")
		lines := paper.Wrap(even, text, paper.Face(""), 2, 8)
		for _, line := range lines {
			require.LessOrEqual(t, even(line, paper.Face(""), 2), 8.0, text)
		}
		require.Equal(t, strings.ReplaceAll(text, " ", ""), strings.ReplaceAll(strings.Join(lines, ""), " ", ""),
			"no letter is lost")
	}
}
