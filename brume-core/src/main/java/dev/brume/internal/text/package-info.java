/** Bounds on text, and places in it to be filled. */
@NullMarked
package dev.brume.internal.text;

import org.jspecify.annotations.NullMarked;
