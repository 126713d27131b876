"""Replicas of one shop: what is merged when vans that worked apart come together."""
