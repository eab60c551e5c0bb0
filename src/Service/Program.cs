using ComeAboard.Service;

return await Commands.Root().Parse(args).InvokeAsync();
