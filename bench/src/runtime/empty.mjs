// Nothing: what a process takes to start and to load one module.
