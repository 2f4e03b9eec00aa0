package gpkg

import (
	"errors"
	"fmt"
	"path/filepath"
	"strings"

	"modernc.org/sqlite"
	code "modernc.org/sqlite/lib"
)

// primary gives the primary result code of an error of the database, or code.SQLITE_OK where it is none.
func primary(err error) int {
	if e, ok := errors.AsType[*sqlite.Error](err); ok {
		return e.Code() & 0xFF
	}
	return code.SQLITE_OK
}

// readFault words an error of a database that is read.
func readFault(err error) string {
	switch text := err.Error(); primary(err) {
	case code.SQLITE_CORRUPT, code.SQLITE_NOTADB, code.SQLITE_IOERR:
		return "is damaged or incomplete: " + text
	case code.SQLITE_TOOBIG:
		return fmt.Sprintf("has a value of more than %d MB, which can't be data", mostValue>>20)
	case code.SQLITE_CANTOPEN:
		return "can't be opened as a database: " + text
	case code.SQLITE_BUSY, code.SQLITE_LOCKED:
		return "is in use by another program: close it there first"
	case code.SQLITE_ERROR:
		if strings.Contains(text, "no such table: gpkg_") {
			return "is a database, but not a GeoPackage"
		}
	}
	return err.Error()
}

// writeFault words an error of the database that is made in a temporary folder.
func writeFault(err error, dir string) error {
	switch primary(err) {
	case code.SQLITE_OK:
		return err
	case code.SQLITE_FULL, code.SQLITE_IOERR, code.SQLITE_CANTOPEN, code.SQLITE_READONLY:
		return notMade(dir, err)
	case code.SQLITE_CORRUPT, code.SQLITE_NOTADB:
		return fmt.Errorf("the GeoPackage that the data would be added to is damaged (%w): write a new file", err)
	case code.SQLITE_CONSTRAINT:
		return fmt.Errorf("a layer has a rule of its own that these data break (%w): change the layer, or write "+
			"a new file", err)
	}
	return fmt.Errorf("its database refuses the data (%w): write a new file", err)
}

// notMade says that the temporary folder has no room for the database, or doesn't work.
func notMade(dir string, err error) error {
	return fmt.Errorf("its database can't be made in %s (%w): make room there, or set TMPDIR to another folder",
		filepath.Dir(dir), err)
}
