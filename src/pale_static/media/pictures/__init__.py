"""Stills and sequences of pictures, in and out."""
