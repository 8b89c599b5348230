"""Compression chosen by measurement: trials, tables of allowed formats, advice."""

from texel.compression.advice import Advice, Caution, advise, cautions, within
from texel.compression.table import SORTS, USUAL_FORMATS, FormatTable, builtin_tables, fits, parse_table, table_named
from texel.compression.trial import Subject, Trial, sample_of, sort_of, try_format, whole_trial

__all__ = [
    "SORTS", "USUAL_FORMATS", "Advice", "Caution", "FormatTable", "Subject", "Trial", "advise", "builtin_tables",
    "cautions", "fits", "parse_table", "sample_of", "sort_of", "table_named", "try_format", "whole_trial", "within",
]  # fmt: skip
