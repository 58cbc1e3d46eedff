"""Calculation a readings file, with no bench book behind it: one document for each question."""

from haremile.usecases.calculate.contrast import ContrastQuestion, contrast_document
from haremile.usecases.calculate.field import FieldQuestion, field_document, machines_document
from haremile.usecases.calculate.summary import summary_document
from haremile.usecases.calculate.total import TotalQuestion, total_document

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
