"""Straightening a feed: the chain of corrections, and finding the page to set it by."""
