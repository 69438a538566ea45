"""The service: jobs, imports, meshes and lists over HTTP."""
