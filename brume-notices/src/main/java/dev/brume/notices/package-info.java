/** Senders of notices, and stand-ins for what receives them. */
@NullMarked
package dev.brume.notices;

import org.jspecify.annotations.NullMarked;
