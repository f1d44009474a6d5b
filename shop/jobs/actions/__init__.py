"""Every change to a job, one file an act: permission, transaction, audit."""
