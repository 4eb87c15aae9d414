"""The web application: Flask, blueprints by feature, pydantic in and out."""
