"""Words that everything is said in: units, money, measures, refusals. Imports no other room."""
