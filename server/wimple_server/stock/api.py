"""The workshop's film, over HTTP: rolls, sheets and remnants."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema
from wimple_core.job.fields import Length
from wimple_core.job.stock import StockPiece
from wimple_core.job.tables import load_piece
from wimple_core.sheets.allot import free_id
from wimple_core.views.stock import StockView, stock_view

from ..jobs.reaching import ERRORS
from ..workshops.models import change_tables, workshop_of

router = Router(tags=["stock"])
Pieces = tuple[StockPiece, ...]


Raw = dict[str, Any]
"""A piece of film as typed: lengths may still be words. The core reads it."""


def _piece(request: HttpRequest, raw: Raw) -> StockPiece:
    return load_piece(raw, "mm" if workshop_of(request).length_style == "mm" else "in")


class PieceIn(Schema):
    piece: Raw


class RemnantIn(Schema):
    remnant_mm: Length


def _change(request: HttpRequest, to: Callable[[Pieces], Sequence[StockPiece]]) -> StockView:
    """Write the stock anew. Raises BadDocument for what it cannot hold."""
    workshop = workshop_of(request)
    tables = change_tables(workshop.pk, lambda was: {"stock": [p.model_dump(mode="json") for p in to(was.stock)]})
    return stock_view(tables, workshop.style)


@router.get("", response={200: StockView, **ERRORS})
def get_stock(request: HttpRequest) -> StockView:
    """All film that is counted, by its colours, drawn to one scale."""
    workshop = workshop_of(request)
    return stock_view(workshop.load_tables(), workshop.style)


@router.post("/pieces", response={201: StockView, **ERRORS})
def add_piece(request: HttpRequest, wanted: PieceIn) -> tuple[int, StockView]:
    """Write a roll, sheets or a remnant down (a `StockPiece`, lengths as typed); without an id it is given one."""

    def to(stock: Pieces) -> Sequence[StockPiece]:
        return [*stock, _piece(request, {"id": free_id(p.id for p in stock), **wanted.piece})]

    return 201, _change(request, to)


@router.put("/pieces/{piece_id}", response={200: StockView, **ERRORS})
def change_piece(request: HttpRequest, piece_id: str, wanted: PieceIn) -> StockView:
    """Write it down otherwise; its id stays."""
    piece = _piece(request, {**wanted.piece, "id": piece_id})

    def to(stock: Pieces) -> Sequence[StockPiece]:
        if all(p.id != piece_id for p in stock):
            raise Http404
        return [piece if p.id == piece_id else p for p in stock]

    return _change(request, to)


@router.delete("/pieces/{piece_id}", response={200: StockView, **ERRORS})
def take_off(request: HttpRequest, piece_id: str) -> StockView:
    """It is not there any more."""

    def to(stock: Pieces) -> Sequence[StockPiece]:
        if all(p.id != piece_id for p in stock):
            raise Http404
        return [p for p in stock if p.id != piece_id]

    return _change(request, to)


@router.put("/remnant", response={200: StockView, **ERRORS})
def keep_over(request: HttpRequest, wanted: RemnantIn) -> StockView:
    """From which size on what is left of film is kept."""
    workshop = workshop_of(request)
    tables = change_tables(workshop.pk, lambda was: {"remnant_mm": wanted.remnant_mm})
    return stock_view(tables, workshop.style)
