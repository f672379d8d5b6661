/**
 * The decisions, as pure functions: given a job, its row and the time, what becomes of what is owed.
 *
 * <p>Nothing here does I/O, reads a clock or starts a thread.
 */
@NullMarked
package dev.brume.internal.decide;

import org.jspecify.annotations.NullMarked;
