"""Drop per injector: the balance test."""
