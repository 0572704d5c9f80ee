"""The proof: simulated machines whose true gain is known, judged by the product's own core."""
