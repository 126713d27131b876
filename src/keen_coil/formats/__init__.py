"""Files in and out: call files, catalogs, typed forms."""
