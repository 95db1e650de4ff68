"""Stand-ins for things outside: a player with a stick, and a host for mixes. They share nothing with the rest but the
open formats that both sides read and write; each runs in a process of its own."""
