"""The sample hangar of the Sandreach Dune Watch: models, flights, recorded moves."""
