"""The report's document, and what stands beside a verdict. Imports every room but job."""
