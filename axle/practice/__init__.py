"""The practice bench's own sums: the ladder of exercises, generated questions, score and best sequence.

It knows simulated axles and no advice: what was believed is put beside the truth by whoever shows it.
"""
