/** Retention, and sealing. */
@NullMarked
package dev.brume.internal.retention;

import org.jspecify.annotations.NullMarked;
