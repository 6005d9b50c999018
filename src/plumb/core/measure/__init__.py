"""What every comparison is made of: quantities, their uncertainty, a decision, a finding, a fact, words."""
