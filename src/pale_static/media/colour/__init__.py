"""Lookup tables and colour decisions, in and out."""
