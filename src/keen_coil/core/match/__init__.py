"""Matching a replacement: rules a row each, schools of sizing, body, rank."""
