// Package devices keeps what the stand-ins for outside devices did.
package devices
