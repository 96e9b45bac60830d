// Package chaos kills what publishes, and the database under it, at random moments, and looks at what is left: the site
// is the one before or the one after, the draft is whole, and the history matches. It has tests only; “make chaos” runs
// a hundred.
package chaos
