// A worker in Java: kept alive by Logarithm, it loads instances, runs the job on them in turn,
// and times it itself.
// In a study:  study.program("in Java", worker=["java", "-cp", "{build}", "{class}"], build=["javac", "-d", "{build}", "{name}"])
// with a family of format="lines".
import java.io.BufferedReader;
import java.io.InputStreamReader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

public class {class} {
    // ---- Your job: from here ... ----------------------------------------------------------------------------
    // The highest of the values in the instance: every number of the file.
    static double job(double[] values) {
        double best = values.length > 0 ? values[0] : 0;
        for (double value : values) if (value > best) best = value;
        return best;
    }
    // ---- ... to here. ---------------------------------------------------------------------------------------

    static double[] read(String text) {
        return Arrays.stream(text.split("[\\s,\\[\\]]+")).filter(part -> !part.isEmpty()).mapToDouble(Double::parseDouble).toArray();
    }

    // A file holds many instances; the sign U+001E stands before each.
    static List<double[]> load(String path) throws Exception {
        return Arrays.stream(Files.readString(Path.of(path)).split("\u001e", -1)).skip(1).map({class}::read).toList();
    }

    static double sink;

    public static void main(String[] arguments) throws Exception {
        ArrayList<double[]> instances = new ArrayList<>();
        int next = 0;
        BufferedReader lines = new BufferedReader(new InputStreamReader(System.in));
        System.out.println("logarithm-worker 3 Java " + System.getProperty("java.version"));
        for (String line; (line = lines.readLine()) != null; ) {
            try {
                if (line.equals("clear")) {
                    instances.clear();
                    next = 0;
                    System.out.println("ok");
                } else if (line.startsWith("load ")) {
                    instances.addAll(load(line.substring(5)));
                    System.out.println("ok");
                } else if (line.startsWith("run ")) {
                    String[] parts = line.split(" ");
                    long calls = Long.parseLong(parts[1]);
                    int among = Integer.parseInt(parts[2]);
                    next %= among;
                    double answer = 0;
                    double[][] turns = instances.toArray(new double[0][]);
                    long start = System.nanoTime();
                    for (long i = 0; i < calls; i++) {
                        sink = answer = job(turns[next]);
                        if (++next == among) next = 0;
                    }
                    long took = System.nanoTime() - start;
                    System.out.println("done " + took + " " + answer);
                } else if (line.equals("end")) {
                    return;
                } else {
                    System.out.println("error unknown request: " + line);
                }
            } catch (Exception error) {
                System.out.println("error " + String.valueOf(error).replaceAll("\\s+", " "));
            }
        }
    }
}
