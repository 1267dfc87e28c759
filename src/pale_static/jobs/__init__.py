"""Frames and renders of effects and reels that live in a library."""
