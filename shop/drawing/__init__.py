"""Drawings as SVG, from plain values: no Django, no records. Page and PDF draw with the same code.

Each mark carries a class, which the page's theme colours, and plain attributes, which the PDF uses.
"""
