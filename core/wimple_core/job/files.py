"""The files a blank names: they travel beside the document, with the drawings."""

from __future__ import annotations

from .blanks import Blank, CupBlank, MeshBlank, PanelBlank, RevolutionBlank, StackBlank

OUTLINE_OF_PHOTO = ".outline.json"
"""A picture's outline, once found, is kept beside it under the picture's name and this ending."""

PATCH_OF_MESH = ".patch.npz"
"""A patch, once flattened, is kept beside its mesh under a name that tells what was chosen."""


def files_of(blank: Blank) -> tuple[str, ...]:
    """The files a blank names, the outline found in its photograph among them."""
    if isinstance(blank, PanelBlank) and blank.shape == "outline" and blank.outline:
        return (blank.outline,)
    if isinstance(blank, MeshBlank):
        return (blank.file,)
    if isinstance(blank, (CupBlank, StackBlank, RevolutionBlank)) and blank.photo is not None:
        return (blank.photo.file, blank.photo.file + OUTLINE_OF_PHOTO)
    return ()
