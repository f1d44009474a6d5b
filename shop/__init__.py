"""The people and the records: Django. Computes nothing; asks :mod:`axle`."""
