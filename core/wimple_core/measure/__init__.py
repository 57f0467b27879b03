"""From readings to a body, with its spread, its zones and the judgement of both."""

from .kinds import BLANK, KINDS, Bring, files_of, given_of, kind_of, measure, sketch_of, starting_blanks
from .measured import Given, Measured

__all__ = [
    "BLANK",
    "KINDS",
    "Bring",
    "Given",
    "Measured",
    "files_of",
    "given_of",
    "kind_of",
    "measure",
    "sketch_of",
    "starting_blanks",
]
