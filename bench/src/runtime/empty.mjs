// An empty module, for the time a process takes to start.
