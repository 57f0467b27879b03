"""Surfaces and their flat templates: development, its inverse, outlines, what a wrong reading does."""

from .surface import Surface, surface_of
from .template import Template, unwrap

__all__ = ["Surface", "Template", "surface_of", "unwrap"]
