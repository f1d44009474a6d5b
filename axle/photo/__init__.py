"""A print from a photograph: the pose of the set's own flank, its edges, colour and patches."""
