package public

import (
	"bytes"
	"context"
	"net/http"
	"net/url"
)

// Addresses that lead nowhere have no end, but what is answered there differs in one thing: the way to sign-in leads
// back to the address. So it is made once, with a mark for the address.

// mark stands for an address; no page has it, since it has no form that a segment can have.
const mark = "/_vineladder_address_"

// A missing answer is cut where the address comes in.
type missing struct {
	answer Response
	parts  [][]byte
}

// keptMissing gives the answer where there is no page, or none any more, for who is signed out.
func (r *Renderer) keptMissing(ctx context.Context, q Request, status int) (Response, error) {
	found, known := q.Kept.missing.Load(status)
	if !known {
		marked := q
		marked.Path, marked.Query = mark, ""
		answer, err := r.insteadNow(ctx, marked, status)
		if err != nil {
			return Response{}, err
		}
		made := &missing{answer: answer, parts: bytes.Split(answer.Body, []byte(url.QueryEscape(mark)))}
		if bytes.Contains(bytes.Join(made.parts, nil), []byte(mark)) {
			made.parts = nil // the address stands in it in another form too: such a page is made each time
		}
		q.Kept.missing.Store(status, made)
		found = made
	}
	made := found.(*missing)
	if made.parts == nil {
		return r.insteadNow(ctx, q, status)
	}
	answer := made.answer
	answer.Body = bytes.Join(made.parts, []byte(url.QueryEscape(withQuery(q.Path, q.Query))))
	return answer, nil
}

// canKeepMissing says whether a request is of a sort for which such answers are alike.
func canKeepMissing(q Request, status int) bool {
	gone := status == http.StatusNotFound || status == http.StatusGone
	return gone && q.Kept != nil && q.Edit == nil && !q.Lens.SignedIn && !q.Lost && q.Base == "" && q.Frame == ""
}
