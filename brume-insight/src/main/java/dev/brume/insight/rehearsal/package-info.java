/** The engine's own duties in virtual time: any number of instances on one thread, whose work takes as long as it is said to. */
@NullMarked
package dev.brume.insight.rehearsal;

import org.jspecify.annotations.NullMarked;
