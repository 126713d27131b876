"""A call as a whole: opened, shown, put together, its readings, changes, photographs, the rail of stations."""
