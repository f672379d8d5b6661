/** The pages for people: what is shown on them, worked out of the same views and rights as the API. */
@NullMarked
package dev.brume.http.internal.console;

import org.jspecify.annotations.NullMarked;
