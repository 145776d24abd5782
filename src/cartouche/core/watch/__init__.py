"""The state of a feed, found from its pictures."""
