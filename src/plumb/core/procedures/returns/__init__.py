"""Return volumes."""
