/** Telling listeners and the log. */
@NullMarked
package dev.brume.internal.event;

import org.jspecify.annotations.NullMarked;
