"""What a person does, one file a use."""
