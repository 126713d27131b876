"""The text of a plate: fields with what they were read from, how sure they are, and what was not understood."""
