package account

import "net/netip"

// Network is the network that an address belongs to: one household or office, by
// the first three bytes of an IPv4 and the first half of an IPv6 address.
func Network(address string) string {
	a, err := netip.ParseAddr(address)
	if err != nil {
		return address
	}
	bits := 64
	if a = a.Unmap(); a.Is4() {
		bits = 24
	}
	p, err := a.Prefix(bits)
	if err != nil {
		return address
	}
	return p.String()
}
