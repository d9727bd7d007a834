package migrations

// Read reads the versions for tests outside of the package.
var Read = read
