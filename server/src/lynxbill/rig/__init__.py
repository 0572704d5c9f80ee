"""A simulated PC: parts that can be swapped, coupled by physics, with a clock of its own and true gains."""
