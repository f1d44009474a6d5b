"""What Lash does, written down so that two versions can be compared line by line.

``python -m benchmarks.behaviour loops FOLDER`` follows the advice over simulated axles; ``python -m
benchmarks.behaviour pages FOLDER`` reads every page and job file of a running ``./start`` with a fresh demo
shop; ``python -m benchmarks.behaviour compare BEFORE AFTER`` names what differs.
"""
