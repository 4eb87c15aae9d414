"""What goes over the wire, a module a feature. The OpenAPI document and the front end's types are generated from these."""
