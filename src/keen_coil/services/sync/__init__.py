"""Laptops of one shop that work apart: what travels, how it is merged, what two wrote apart."""
