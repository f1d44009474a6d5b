"""Who does what when: hours of work, stretches of jobs, the plan of a shop, the chance of a promise."""
