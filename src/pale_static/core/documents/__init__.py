"""Documents: effects, parts and macros as models; what is wrong with them, and who reads whom."""
