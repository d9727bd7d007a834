// Package office keeps settings, branches, people, sessions and request keys.
package office
