// A source for the headers that unoptimised tests share to be compiled with.
