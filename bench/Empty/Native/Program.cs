// Nothing: what starting a program costs by itself.
return;
