"""The demo lesson: Reading the ground, at the made-up Larkmoor Field School."""
