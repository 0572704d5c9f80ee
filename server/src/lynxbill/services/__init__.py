"""One module per use case: load, compute, save. Owns the transaction, the clock and the seed."""
