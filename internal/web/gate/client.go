package gate

import (
	"net/http"
	"net/netip"
	"strings"
)

// Clients tells who asks. Behind proxies it is what the nearest of them says, in one header; the other is ignored.
type Clients struct {
	Proxies   []netip.Prefix
	Forwarded bool // the header is Forwarded (RFC 7239), not X-Forwarded-For
}

// ParseClients reads a list of networks, as in "10.0.0.0/8, ::1/128", and the name of the header.
func ParseClients(proxies, header string) (Clients, error) {
	c := Clients{Forwarded: strings.EqualFold(header, "Forwarded")}
	for _, network := range strings.FieldsFunc(proxies, func(r rune) bool { return r == ',' || r == ' ' }) {
		prefix, err := netip.ParsePrefix(network)
		if err != nil {
			return c, err
		}
		c.Proxies = append(c.Proxies, prefix.Masked())
	}
	return c, nil
}

// Of gives the address that counts as one client: of IPv6 the network of 64 bits. What can't be parsed falls back to
// the peer.
func (c Clients) Of(r *http.Request) string {
	peer, ok := parse(r.RemoteAddr)
	if !ok {
		return r.RemoteAddr
	}
	at := peer
	said := c.said(r)
	for i := len(said) - 1; i >= 0 && c.isProxy(at); i-- {
		next, ok := parse(said[i])
		if !ok {
			return network(peer)
		}
		at = next
	}
	return network(at)
}

func (c Clients) isProxy(at netip.Addr) bool {
	for _, prefix := range c.Proxies {
		if prefix.Contains(at) {
			return true
		}
	}
	return false
}

// said gives what proxies wrote of those before them, the nearest last.
func (c Clients) said(r *http.Request) []string {
	if !c.Forwarded {
		return strings.FieldsFunc(
			strings.Join(r.Header.Values("X-Forwarded-For"), ","),
			func(r rune) bool { return r == ',' || r == ' ' },
		)
	}
	var all []string
	for hop := range strings.SplitSeq(strings.Join(r.Header.Values("Forwarded"), ","), ",") {
		of := "unknown"
		for pair := range strings.SplitSeq(hop, ";") {
			if name, value, is := strings.Cut(strings.TrimSpace(pair), "="); is && strings.EqualFold(name, "for") {
				of = strings.Trim(value, `"`)
			}
		}
		all = append(all, of)
	}
	return all
}

// parse reads an address with or without a port.
func parse(words string) (netip.Addr, bool) {
	if at, err := netip.ParseAddrPort(words); err == nil {
		return at.Addr().Unmap().WithZone(""), true
	}
	at, err := netip.ParseAddr(strings.Trim(words, "[]"))
	return at.Unmap().WithZone(""), err == nil
}

func network(at netip.Addr) string {
	if at.Is6() {
		if prefix, err := at.Prefix(64); err == nil {
			return prefix.String()
		}
	}
	return at.String()
}
