"""From a trace to figures. Imports record, statistics and terms."""
