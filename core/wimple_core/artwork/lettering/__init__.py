"""Words, shaped by HarfBuzz and set as outlines."""

from .fonts import ON_ANYWAY, Face, Faces, feature_words, open_face, shipped_face
from .room import InRoom, in_room
from .setting import set_words

__all__ = ["ON_ANYWAY", "Face", "Faces", "InRoom", "feature_words", "in_room", "open_face", "set_words", "shipped_face"]
