"""What a technician does, one function an act: loads, asks the core, saves, returns a view. A room a subject."""
