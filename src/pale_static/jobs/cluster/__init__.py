"""Films made by other machines: a Dask scheduler and its workers."""
