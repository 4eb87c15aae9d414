"""The invented scenario: a Saturday string club in a former ferry hall."""
