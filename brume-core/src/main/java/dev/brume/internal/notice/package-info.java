/**
 * What is told, as pure functions: given causes, what was seen and the time, what is to be sent.
 *
 * <p>Nothing here does I/O, reads a clock or starts a thread.
 */
@NullMarked
package dev.brume.internal.notice;

import org.jspecify.annotations.NullMarked;
