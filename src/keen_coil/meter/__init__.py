"""The meter link: its protocol, the link that listens, a stand-in meter that ships with the program.

Protocol, version 1: a WebSocket on loopback, text frames, in each a line of JSON for each reading (see `Frame`).
"""
