"""The shop's week: who does what when, what a promise is worth, what is ordered and what it costs."""
