"""Which of this computer's addresses a phone can reach it by: which network each belongs to, the likeliest first."""

import ipaddress
import re
from collections.abc import Iterable
from typing import Literal, NamedTuple

Way = Literal["wireless", "cable", "virtual", "other"]

_WAYS: tuple[tuple[Way, str], ...] = (  # by the names that Linux, macOS and Windows give
    (
        "virtual",
        r"docker|^br-|veth|virbr|vmnet|vbox|virtualbox|hyper-v|vethernet|tailscale|^tun|^tap|utun|wireguard|^wg|vpn|loopback|^lo\d*$",
    ),
    ("wireless", r"^wl|wi-?fi|wlan|wireless|airport"),
    ("cable", r"^en|^eth|ethernet|^usb|lan"),
)
WORDS: dict[Way, str] = {"wireless": "wireless", "cable": "by cable", "virtual": "inside this computer only", "other": "network"}
_RANK: dict[Way, int] = {"wireless": 0, "cable": 1, "other": 2, "virtual": 3}


class Network(NamedTuple):
    """One address of this computer. words: which network that is, for a teacher.  usual: traffic to elsewhere leaves by it."""

    address: str
    adapter: str
    way: Way
    words: str
    usual: bool


def networks(addresses: Iterable[tuple[str, str, int]], usual: str | None) -> list[Network]:
    """Reachable IPv4 addresses, the likeliest for a phone first.

    addresses: (adapter's name, address, prefix length).  usual: the address that traffic to elsewhere leaves by, if any.
    Loopback and link-local addresses (RFC 3927) are left out: no phone can reach them.
    """
    found = []
    for adapter, address, prefix in addresses:
        parsed = ipaddress.ip_address(address)
        if parsed.version != 4 or parsed.is_loopback or parsed.is_link_local or parsed.is_unspecified:
            continue
        way = way_of(adapter)
        net = ipaddress.ip_network(f"{address}/{prefix}", strict=False)
        found.append(Network(address, adapter, way, f"{adapter}, {WORDS[way]}: its addresses begin with {_begins(net)}", address == usual))
    return sorted(found, key=lambda network: (network.way == "virtual", not network.usual, _RANK[network.way], network.address))


def is_near(address: str, client: str, own: Iterable[tuple[str, int]]) -> bool:
    """Whether a guest that comes from `client` may be answered at this address: where it comes from, or in one of our own networks.

    Never this computer's own loopback, unless the guest is on this computer. own: this computer's (address, prefix length).
    """
    try:
        wanted, comes = ipaddress.ip_address(address), ipaddress.ip_address(client)
    except ValueError:
        return False
    if wanted.is_loopback:
        return comes.is_loopback
    if wanted.is_multicast or wanted.is_unspecified:
        return False
    return wanted == comes or any(wanted in ipaddress.ip_network(f"{here}/{prefix}", strict=False) for here, prefix in own)


def way_of(adapter: str) -> Way:
    return next((way for way, pattern in _WAYS if re.search(pattern, adapter, re.IGNORECASE)), "other")


def _begins(net: ipaddress.IPv4Network | ipaddress.IPv6Network) -> str:
    whole = net.prefixlen // 8
    return ".".join(str(net.network_address).split(".")[:whole])
