"""Sound: how loud it is."""
