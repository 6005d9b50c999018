"""What injectors did, held against each other: who agrees, who leans, by which rule."""
