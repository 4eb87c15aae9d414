"""A machine with nothing but two doors: a program in a network namespace of its own, where only a loopback is, reaches services outside
through sockets in the file system, as it would another machine's through a tunnel.

    unshare --net python -m tests.relay 5432=/folder/5432 9000=/folder/9000 -- program and its arguments
"""

from __future__ import annotations

import fcntl
import os
import signal
import socket
import struct
import subprocess
import sys
import threading
from collections.abc import Sequence
from pathlib import Path

ALONE = ["unshare", "--net"] if os.getuid() == 0 else ["unshare", "--map-root-user", "--net"]
_SIOCSIFFLAGS, _IFF_UP = 0x8914, 0x1
"""From linux/sockios.h and linux/if.h."""


def pass_on(door: socket.socket, family: socket.AddressFamily, address: str | tuple[str, int]) -> None:
    """Everything that comes to the door goes to the address, and back, until the process ends."""

    def accept() -> None:
        while True:
            try:
                here, _ = door.accept()
            except OSError:
                return
            there = socket.socket(family)
            try:
                there.connect(address)
            except OSError:
                here.close()
                continue
            for ends in ((here, there), (there, here)):
                threading.Thread(target=_pour, args=ends, daemon=True).start()

    threading.Thread(target=accept, daemon=True).start()


def _pour(source: socket.socket, target: socket.socket) -> None:
    try:
        while data := source.recv(65536):
            target.sendall(data)
        target.shutdown(socket.SHUT_WR)
    except OSError:
        # One end is gone: the other hears it.
        for end in (source, target):
            end.close()


def apart(folder: Path, ports: Sequence[int]) -> list[str]:
    """What a program is to be started by to stand alone but for these ports of this machine. `folder`: for the doors."""
    told = []
    for port in ports:
        door = socket.socket(socket.AF_UNIX)
        door.bind(str(folder / str(port)))
        door.listen()
        pass_on(door, socket.AF_INET, ("127.0.0.1", port))
        told.append(f"{port}={folder / str(port)}")
    return [*ALONE, sys.executable, "-m", "tests.relay", *told, "--"]


def main() -> None:
    at = sys.argv.index("--")
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        fcntl.ioctl(probe, _SIOCSIFFLAGS, struct.pack("16sh14x", b"lo", _IFF_UP))
    for told in sys.argv[1:at]:
        port, path = told.split("=", 1)
        door = socket.create_server(("127.0.0.1", int(port)))
        pass_on(door, socket.AF_UNIX, path)
    inside = subprocess.Popen(sys.argv[at + 1 :])
    signal.signal(signal.SIGTERM, lambda *_: inside.terminate())
    os._exit(inside.wait())


if __name__ == "__main__":
    main()
