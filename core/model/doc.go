// Package model holds the model document: everything that a user says about a
// device, as plain data, with what is missing, wrong or doubtful in it.
//
// Values are kept as text just as they were written ("5 mm", "2*pitch"), so that
// nothing that was typed is lost, not even a mistake. [Resolve] evaluates them
// and lists findings, each with its place in the document. A place is a path
// such as "parts/floor/span/to"; [Set] changes the value at a place, and the
// interface uses places as the names of its fields.
package model
