"""What a person does, one file a use: jobs, sheets, files in and out."""
