"""Documents: reading and checking effects, parts and macros; which step reads which; digests."""
