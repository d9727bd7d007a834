package kit

import (
	"net/netip"
	"strings"

	"github.com/gofiber/fiber/v3"
)

// proxies are those that are believed, alone or by their networks.
type proxies []netip.Prefix

// readProxies reads the addresses and networks of proxies; what is neither is left out.
func readProxies(list []string) proxies {
	var read proxies
	for _, text := range list {
		text = strings.TrimSpace(text)
		if network, err := netip.ParsePrefix(text); err == nil {
			read = append(read, network.Masked())
		} else if one, err := netip.ParseAddr(text); err == nil {
			read = append(read, netip.PrefixFrom(one.Unmap(), one.Unmap().BitLen()))
		}
	}
	return read
}

func (p proxies) believes(at netip.Addr) bool {
	for _, network := range p {
		if network.Contains(at.Unmap()) {
			return true
		}
	}
	return false
}

// client is the address that a request came from: the one that connected, unless that is a proxy that is believed. Then
// it is the last of those that the proxies noted, from the right, that is none of them; what stands before it, the
// client may have written itself.
func (p proxies) client(connected, forwarded string) string {
	at, err := netip.ParseAddr(connected)
	if err != nil {
		return connected
	}
	noted := strings.Split(forwarded, ",")
	for i := len(noted) - 1; i >= 0 && p.believes(at); i-- {
		text := strings.Trim(strings.TrimSpace(noted[i]), "[]")
		before, err := netip.ParseAddr(text)
		if err != nil {
			if with, portErr := netip.ParseAddrPort(strings.TrimSpace(noted[i])); portErr == nil {
				before, err = with.Addr(), nil
			}
		}
		if err != nil {
			break
		}
		at = before
	}
	return at.Unmap().WithZone("").String()
}

// address is where a request came from.
func (s *Server) address(c fiber.Ctx) string {
	var noted []string
	for _, head := range c.Request().Header.PeekAll(fiber.HeaderXForwardedFor) {
		noted = append(noted, string(head))
	}
	return s.proxies.client(c.RequestCtx().RemoteIP().String(), strings.Join(noted, ","))
}
