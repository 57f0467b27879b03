"""All bodies there are, by what they are to those who ask."""

from __future__ import annotations

from .body import Cap, Frustum, Profile
from .flat_bodies import MeshBody, Panel, RiseSurface

RoundBody = Frustum | Profile


FlatBody = Cap | Panel | RiseSurface


Body = Frustum | Profile | Cap | Panel | RiseSurface | MeshBody
