"""Who may come in from the local network: invitations with their limits, and the networks that a phone could be in."""
