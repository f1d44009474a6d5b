"""What is true of axles: pure Python without interface, records or input and output.

Inside the core lengths are in mm, torques in N·m, angles in rad and temperatures in °C.
Signs follow two rules: ``depth_error`` > 0 means the pinion sits too deep (too near the ring
gear's axis), and ``ring_offset`` > 0 means the ring gear sits further from the pinion (more
backlash).
"""
