import pytest

from cartouche.core.guests.networks import networks, way_of


@pytest.mark.parametrize(
    ("adapter", "way"),
    [
        ("wlan0", "wireless"),
        ("wlp3s0", "wireless"),
        ("Wi-Fi", "wireless"),
        ("eth0", "cable"),
        ("enp2s0", "cable"),
        ("Ethernet 2", "cable"),
        ("docker0", "virtual"),
        ("br-12ab", "virtual"),
        ("vEthernet (WSL)", "virtual"),
        ("VirtualBox Host-Only Ethernet Adapter", "virtual"),
        ("utun3", "virtual"),
        ("lo", "virtual"),
        ("ppp0", "other"),
    ],
)
def test_an_adapters_name_tells_its_network(adapter: str, way: str) -> None:
    assert way_of(adapter) == way


def test_the_one_that_leads_elsewhere_comes_first_and_virtual_ones_last() -> None:
    found = networks(
        [("docker0", "172.17.0.1", 16), ("eth0", "10.0.0.5", 8), ("wlan0", "192.168.1.20", 24), ("lo", "127.0.0.1", 8)], "10.0.0.5"
    )
    assert [one.address for one in found] == ["10.0.0.5", "192.168.1.20", "172.17.0.1"]
    assert [one.usual for one in found] == [True, False, False]


def test_without_a_way_elsewhere_the_wireless_one_comes_first() -> None:
    found = networks([("eth0", "10.0.0.5", 24), ("wlan0", "192.168.1.20", 24)], None)
    assert found[0].adapter == "wlan0"


def test_what_no_phone_reaches_is_left_out() -> None:
    assert not networks([("lo", "127.0.0.1", 8), ("eth0", "169.254.3.4", 16), ("eth1", "0.0.0.0", 0)], None)


@pytest.mark.parametrize(
    ("prefix", "begins"), [(24, "with 192.168.1"), (16, "with 192.168"), (8, "with 192"), (20, "with 192.168"), (32, "with 192.168.1.20")]
)
def test_the_network_is_told_by_how_its_addresses_begin(prefix: int, begins: str) -> None:
    assert networks([("wlan0", "192.168.1.20", prefix)], None)[0].words.endswith(begins)
