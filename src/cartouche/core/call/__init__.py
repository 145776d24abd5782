"""The call as each audience gets it."""
