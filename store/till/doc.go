// Package till keeps what registers make: baskets, sales, returns, tenders, vouchers and drawers.
package till
