"""Sheets: a page as it is, without the hand that writes on it and without the shadow that the hand throws."""
