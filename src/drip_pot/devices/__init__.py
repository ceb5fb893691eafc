"""Stand-ins for machines outside: the flatbed scanner. They know core only."""

from drip_pot.devices.scanner import Dust, flawed_scan

__all__ = ["Dust", "flawed_scan"]
