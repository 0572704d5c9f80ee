"""HTTP: a router per noun; schemas; the one place that knows status codes."""
