"""What figures of many visits say: how a part slides, and what sound parts of a type usually give."""
