"""Addresses: this machine's own, and those by which others reach it."""

from __future__ import annotations

import ipaddress
import socket

import psutil

LOOPBACK, ANYWHERE = "127.0.0.1", "0.0.0.0"


def is_loopback(name: str) -> bool:
    """Whether a host name or address is this machine's own."""
    try:
        return name == "localhost" or ipaddress.ip_address(name).is_loopback
    except ValueError:
        return False


def on_the_network(host: str) -> list[str]:
    """The addresses by which other machines reach a host; all of this machine's where it is bound to all."""
    if host != ANYWHERE:
        return [host]
    found = [
        one.address for each in psutil.net_if_addrs().values() for one in each if one.family == socket.AF_INET
    ]
    return [address for address in found if not is_loopback(address)]
