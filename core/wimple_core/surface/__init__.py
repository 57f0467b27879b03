"""Surfaces and their flat templates: development, its inverse, outlines, strain and its relief."""

from .laying import Laying
from .surface import Surface
from .template import Template
from .unwrap import unwrap

__all__ = ["Laying", "Surface", "Template", "unwrap"]
