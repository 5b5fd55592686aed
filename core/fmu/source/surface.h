#ifndef SURFACE_H
#define SURFACE_H

/* The outputs y at the inputs x, in their units. */
void surface(const double x[], double y[]);

#endif
