"""From readings to a body, with its spread, its zones and the judgement of both."""

from .measured import Given, Measured, measure

__all__ = ["Given", "Measured", "measure"]
