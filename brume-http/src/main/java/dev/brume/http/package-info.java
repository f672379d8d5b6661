/** Brume over HTTP: {@link dev.brume.http.BrumeHttp} makes a servlet of an instance. */
@NullMarked
package dev.brume.http;

import org.jspecify.annotations.NullMarked;
