"""The agent on the machine under test; installs and runs without the server's packages."""
