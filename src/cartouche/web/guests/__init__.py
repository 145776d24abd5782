"""Phones and tablets: the door in the local network, who may come in by it, and what each one tells and is asked for."""
