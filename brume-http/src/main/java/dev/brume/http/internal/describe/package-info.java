/** The description of all that can be asked for. */
@NullMarked
package dev.brume.http.internal.describe;

import org.jspecify.annotations.NullMarked;
