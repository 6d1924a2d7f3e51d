"""Chains of bones solved from their tips."""
