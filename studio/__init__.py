"""The studio: people, projects and their work, around the core. It holds no pixel arithmetic."""
