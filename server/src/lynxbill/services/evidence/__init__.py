"""What was measured: sittings, runs, traces, pictures. Imports swap, frame and base."""
