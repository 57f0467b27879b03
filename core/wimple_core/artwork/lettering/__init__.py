"""Words, shaped by HarfBuzz and set as outlines."""

from .fonts import Face, open_face, shipped_face
from .setting import set_words

__all__ = ["Face", "open_face", "set_words", "shipped_face"]
