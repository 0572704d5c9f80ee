"""What spoils a run while it lasts."""

# Another program that takes this share of all cores, or more.
OTHERS_SPOIL_FROM = 0.03
