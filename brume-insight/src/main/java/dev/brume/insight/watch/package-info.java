/** Looks for what does not happen by itself: lateness, deadlines, silence, and what is wrong with the whole. */
@NullMarked
package dev.brume.insight.watch;

import org.jspecify.annotations.NullMarked;
