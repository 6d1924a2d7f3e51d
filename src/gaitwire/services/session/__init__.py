"""The open workspace: documents, caches, workers, jobs, locks, and what keeps them well."""
