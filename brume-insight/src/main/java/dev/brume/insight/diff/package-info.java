/** The differences between a set of definitions and those in force. Computation only: it is given both, and a time. */
@NullMarked
package dev.brume.insight.diff;

import org.jspecify.annotations.NullMarked;
