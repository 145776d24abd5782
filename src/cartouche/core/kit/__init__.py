"""The devices of a room: who may join, by which network, which device is which again, which size serves the page."""
