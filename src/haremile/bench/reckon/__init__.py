"""Reckoning a readings file, with no bench book behind it: one document for each question."""

from haremile.bench.reckon.contrast import ContrastQuestion, contrast_document
from haremile.bench.reckon.field import FieldQuestion, field_document, machines_document
from haremile.bench.reckon.summary import summary_document
from haremile.bench.reckon.total import TotalQuestion, total_document

__all__ = [
    "ContrastQuestion",
    "FieldQuestion",
    "TotalQuestion",
    "contrast_document",
    "field_document",
    "machines_document",
    "summary_document",
    "total_document",
]
