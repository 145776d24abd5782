"""The web: one router per screen, sockets for pictures and state, and the guard at the door."""
