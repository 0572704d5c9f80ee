"""One machine as it is written down, in plain values. Imports terms."""
