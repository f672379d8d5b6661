/** Definitions coming into force. */
@NullMarked
package dev.brume.internal.define;

import org.jspecify.annotations.NullMarked;
