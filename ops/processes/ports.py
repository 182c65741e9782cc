"""Loopback ports for what is started."""

import random
import socket

FIRST_PORT, LAST_PORT = 10_000, 32_000  # Linux takes those from 32768 on by itself
_given: set[int] = set()


def free_port() -> int:
    """A loopback port that nobody listens on, another one each time, and none that an outgoing connection may take.

    Chosen by the system's chance: processes of one parent do not choose alike.
    """
    chance = random.SystemRandom()
    while len(_given) < LAST_PORT - FIRST_PORT:
        port = chance.randrange(FIRST_PORT, LAST_PORT)
        with socket.socket() as probe:
            if port not in _given and probe.connect_ex(("127.0.0.1", port)) != 0:
                _given.add(port)
                return port
    raise RuntimeError("there is no port left to listen on")
