/** Streams of events. */
@NullMarked
package dev.brume.http.internal.live;

import org.jspecify.annotations.NullMarked;
