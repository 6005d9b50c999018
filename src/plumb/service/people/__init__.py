"""People of the shop: who may come in, at which tablet, what they may do, and what they did."""
