"""Films in and out."""
