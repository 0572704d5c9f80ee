"""What a machine is and what is planned of it. Imports base."""
