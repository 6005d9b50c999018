"""The made-up jobs of the Saltmere harbour workshop, and how they are loaded once."""
