"""What a technician does: one function per act. The only place where core meets store."""
