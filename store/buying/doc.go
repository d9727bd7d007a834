// Package buying keeps what is bought: orders, deliveries, bills, payments and credits, and what suppliers list.
package buying
