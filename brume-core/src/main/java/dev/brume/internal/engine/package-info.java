/** Threads and workers that drive the duties on a real machine. */
@NullMarked
package dev.brume.internal.engine;

import org.jspecify.annotations.NullMarked;
