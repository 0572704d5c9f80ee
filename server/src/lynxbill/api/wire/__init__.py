"""Every body and schema that travels. Imports no other room."""
