"""Calculation a readings file, with no bench book behind it: one document for each question."""

from haremile.bench.calculate.contrast import ContrastQuestion, contrast_document
from haremile.bench.calculate.field import FieldQuestion, field_document, machines_document
from haremile.bench.calculate.summary import summary_document
from haremile.bench.calculate.total import TotalQuestion, total_document

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
