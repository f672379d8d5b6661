/** Payloads as JSON, by Jackson 3. */
@NullMarked
package dev.brume.jackson3;

import org.jspecify.annotations.NullMarked;
