"""Running pictures: feeds, the desk that makes the outgoing picture, the hub that hands pictures to whoever looks."""
