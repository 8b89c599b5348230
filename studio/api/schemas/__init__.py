"""What the API takes and answers, as schemas; one module for each module of routes."""
