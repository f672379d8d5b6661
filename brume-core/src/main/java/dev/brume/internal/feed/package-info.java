/** Following what was committed, in one order for all. */
@NullMarked
package dev.brume.internal.feed;

import org.jspecify.annotations.NullMarked;
