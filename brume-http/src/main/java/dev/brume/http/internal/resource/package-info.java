/** What can be asked for. */
@NullMarked
package dev.brume.http.internal.resource;

import org.jspecify.annotations.NullMarked;
