/** Payloads as JSON, by Jackson 2. */
@NullMarked
package dev.brume.jackson2;

import org.jspecify.annotations.NullMarked;
