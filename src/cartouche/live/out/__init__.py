"""The outgoing picture and sound on their way into a call: one encode per size, and who takes it."""
