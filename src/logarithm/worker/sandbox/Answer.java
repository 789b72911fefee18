import java.io.*;
import java.lang.reflect.*;
import java.nio.charset.StandardCharsets;
import java.util.*;

/**
 * Answers instances with a static method of the class that was handed in: a number, a text, or an array of numbers.
 * "+" and JSON hand one over; "=" and its number have it answered, once. Both get a line of JSON back.
 */
public class Answer {
    public static void main(String[] told) throws Exception {
        PrintStream replies = new PrintStream(new FileOutputStream(FileDescriptor.out), false, "UTF-8");
        System.setOut(new PrintStream(OutputStream.nullOutputStream()));
        Method asked = null;
        for (Method each : Class.forName(told[0]).getDeclaredMethods())
            if (each.getName().equals(told[1]) && Modifier.isStatic(each.getModifiers()) && each.getParameterCount() == 1)
                asked = each;
        say(replies, asked == null ? "{\"error\": \"no static method '" + told[1] + "' of one value\"}" : "{\"ready\": true}");
        if (asked == null) return;
        asked.setAccessible(true);
        Class<?> kind = asked.getParameterTypes()[0];
        BufferedReader lines = new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8), 1 << 20);
        ArrayList<Object> handed = new ArrayList<>();
        for (String line = lines.readLine(); line != null; line = lines.readLine()) {
            try {
                String rest = line.substring(1).trim();
                if (line.startsWith("+")) {
                    handed.add(value(rest, kind));
                    say(replies, "{\"answer\": " + (handed.size() - 1) + "}");
                } else {
                    Object given = handed.set(Integer.parseInt(rest), null);
                    say(replies, "{\"answer\": " + written(asked.invoke(null, given)) + "}");
                }
            } catch (InvocationTargetException error) {
                say(replies, "{\"error\": " + quoted(String.valueOf(error.getCause())) + "}");
            } catch (RuntimeException error) {
                say(replies, "{\"error\": " + quoted("the instance is no " + kind.getSimpleName()) + "}");
            }
        }
    }

    private static void say(PrintStream replies, String line) {
        replies.println(line);
        replies.flush();
    }

    private static Object value(String text, Class<?> kind) {
        if (kind == String.class) return text.substring(1, text.length() - 1);
        if (!kind.isArray()) return number(text, kind);
        String inside = text.substring(1, text.length() - 1).trim();
        String[] parts = inside.isEmpty() ? new String[0] : inside.split(",");
        Class<?> part = kind.getComponentType();
        Object made = java.lang.reflect.Array.newInstance(part, parts.length);
        for (int at = 0; at < parts.length; at++) java.lang.reflect.Array.set(made, at, number(parts[at].trim(), part));
        return made;
    }

    private static Object number(String text, Class<?> kind) {
        if (kind == int.class) return Integer.parseInt(text);
        if (kind == long.class) return Long.parseLong(text);
        if (kind == double.class) return Double.parseDouble(text);
        throw new IllegalArgumentException(text);
    }

    private static String written(Object answer) {
        if (answer == null) return "null";
        if (answer instanceof Number || answer instanceof Boolean) return answer.toString();
        if (answer instanceof Collection) answer = ((Collection<?>) answer).toArray();
        if (!answer.getClass().isArray()) return quoted(answer.toString());
        StringJoiner parts = new StringJoiner(", ", "[", "]");
        for (int at = 0; at < java.lang.reflect.Array.getLength(answer); at++)
            parts.add(written(java.lang.reflect.Array.get(answer, at)));
        return parts.toString();
    }

    private static String quoted(String text) {
        StringBuilder made = new StringBuilder("\"");
        for (char each : text.toCharArray())
            if (each == '"' || each == '\\') made.append('\\').append(each);
            else made.append(each < ' ' ? ' ' : each);
        return made.append('"').toString();
    }
}
