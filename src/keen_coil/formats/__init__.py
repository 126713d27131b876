"""Files in and out: call files, catalogues, typed forms."""
