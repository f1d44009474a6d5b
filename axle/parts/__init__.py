"""The bill of parts of one axle: what is new by rule or by a finding, and shims that may be wanted."""
