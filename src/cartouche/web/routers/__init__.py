"""One router per screen."""
