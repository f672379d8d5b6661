/** Waits for the ends of runs. */
@NullMarked
package dev.brume.internal.result;

import org.jspecify.annotations.NullMarked;
