/** Small programs that use Brume, each complete in one file. */
@NullMarked
package dev.brume.examples;

import org.jspecify.annotations.NullMarked;
