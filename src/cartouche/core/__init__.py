"""The job's rules and computation: arrays and values in, arrays and values out.

Nothing in this room opens a socket, a file or a thread, or asks what time it is.
"""
