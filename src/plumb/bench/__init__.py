"""Simulated rails and sets with known truth, and what each rule is worth on them."""
