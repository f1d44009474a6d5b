"""Pinion depth: marks, every way of measuring, how sure each is, and how they are compared.

In every method t = t_trial + s·(actual − required), both being the distance from the ring gear's
axis to the pinion's reference face, s the layout's ``depth_sign``.
"""
