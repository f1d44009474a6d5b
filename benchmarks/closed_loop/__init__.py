"""Simulated axles built to the end by Lash, and by a careful builder with rules of thumb.

``python -m benchmarks.closed_loop`` prints the tables; docs/closed_loop.md keeps the newest.
"""
