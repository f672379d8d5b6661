/** Who is let in. */
@NullMarked
package dev.brume.http.internal.access;

import org.jspecify.annotations.NullMarked;
