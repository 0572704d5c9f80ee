"""Numbers in, intervals out; the only place that pools scatter. Imports terms."""
