/** Orders by hand: one-offs, pauses, reruns, backfills, cancelling. */
@NullMarked
package dev.brume.internal.order;

import org.jspecify.annotations.NullMarked;
