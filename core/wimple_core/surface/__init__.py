"""Surfaces and their flat templates: development, its inverse, outlines, strain and its relief."""

from .surface import Surface, surface_of
from .template import Template
from .unwrap import unwrap

__all__ = ["Surface", "Template", "surface_of", "unwrap"]
