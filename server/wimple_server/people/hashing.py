"""How passwords are kept."""

from __future__ import annotations

from django.contrib.auth.hashers import Argon2PasswordHasher


class Argon2id(Argon2PasswordHasher):
    """Argon2id with 19 MiB, two passes and one lane: the OWASP Password Storage Cheat Sheet's lesser setting (from
    memory), so that forty guesses at once leave the server room."""

    memory_cost = 19 * 1024
    time_cost = 2
    parallelism = 1
