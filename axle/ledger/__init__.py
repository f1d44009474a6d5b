"""The money of a job: lines, sums, tax; estimate against account. Decimal throughout, one currency."""
