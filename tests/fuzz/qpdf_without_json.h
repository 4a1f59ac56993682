// qpdf's JSON keeps a vector of itself while it is not yet complete, which clang takes for an error in C++20. Nothing here uses
// it; its name is enough for the headers that speak of it. Included before all else in what uses qpdf, where fuzzers are built.
#define JSON_HH
class JSON;
