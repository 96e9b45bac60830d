// Package site holds the model: pages, menus, roles, and the immutable Site that carries them.
//
// A Site is never changed after it is built. Everything that edits makes a new one that shares what it left alone, so
// an edit costs what it touches and two Sites are compared by what they don't share. The package knows structure and
// order (rules 1 and 2); what a visitor reaches, what a menu shows and what an operation may do are decided in the
// packages beside it.
package site
