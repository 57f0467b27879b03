"""See-through paint is left out, blended or cut whole: held against a picture of the same drawing by a renderer."""

from __future__ import annotations
