"""What stands beside a verdict. Imports judgement, heat and the rooms below them."""
