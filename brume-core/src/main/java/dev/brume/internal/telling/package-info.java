/** Telling: deciding what is to be sent, and sending it. */
@NullMarked
package dev.brume.internal.telling;

import org.jspecify.annotations.NullMarked;
