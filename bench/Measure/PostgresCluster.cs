using ComeAboard.Standins;

namespace ComeAboard.Measure;

/// <summary>A PostgreSQL server of Debian's package on loopback, with its usual settings, in a temporary directory.</summary>
public sealed class PostgresCluster : IDisposable
{
    private readonly DirectoryInfo _directory = Directory.CreateTempSubdirectory("aboard-pg-");
    private readonly int _port = Ports.Free();

    /// <summary>A server where that is what is measured on.</summary>
    public static PostgresCluster? On(string engine) => engine == "PostgreSQL" ? new() : null;

    public PostgresCluster()
    {
        if (Environment.UserName == "root")
            Places.RunToEnd("chown", null, "postgres", _directory.FullName);
        Run("initdb", "-D", Data, "-A", "trust", "-U", "aboard", "-E", "UTF8");
        Run(
            "pg_ctl",
            "-D",
            Data,
            "-w",
            "-l",
            Path.Combine(_directory.FullName, "log"),
            "-o",
            $"-p {_port} -k {_directory.FullName} -c listen_addresses=127.0.0.1",
            "start"
        );
        Run("createdb", "-h", "127.0.0.1", "-p", _port.ToString(), "-U", "aboard", "aboard");
    }

    public string Connection =>
        $"Host=127.0.0.1;Port={_port};Username=aboard;Database=aboard;Maximum Pool Size=40";

    public void Dispose()
    {
        Run("pg_ctl", "-D", Data, "-m", "immediate", "stop");
        _directory.Delete(true);
    }

    private string Data => Path.Combine(_directory.FullName, "data");

    private static void Run(string program, params string[] arguments)
    {
        var path = Directory.GetDirectories("/usr/lib/postgresql").Order().Last() + "/bin/" + program;
        // pg_ctl leaves the server with its output, so that the output is not waited for.
        var quiet = string.Join(' ', arguments.Select(a => $"'{a}'"));
        var command = $"cd /tmp && '{path}' {quiet} > /dev/null 2>&1";
        if (Environment.UserName == "root")
            Places.RunToEnd("runuser", null, "-u", "postgres", "--", "/bin/bash", "-c", command);
        else
            Places.RunToEnd("/bin/bash", null, "-c", command);
    }
}
