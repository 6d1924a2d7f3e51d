"""The pages: thin views over the services."""
