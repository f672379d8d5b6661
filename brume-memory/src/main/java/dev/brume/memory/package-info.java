/** The store in memory: for a first try, for tests, and for the simulator. */
@NullMarked
package dev.brume.memory;

import org.jspecify.annotations.NullMarked;
