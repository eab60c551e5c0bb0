using ComeAboard.Service;

// The host itself hears what tells it to stop, and finishes what it is at; nobody else cuts that short.
return await Commands.Root().Parse(args).InvokeAsync(new() { ProcessTerminationTimeout = null });
