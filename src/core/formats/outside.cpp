#include "formats/outside.h"

#include "base/error.h"

#include <fcntl.h>
#include <signal.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <cstdlib>
#include <filesystem>
#include <thread>

extern char** environ;

namespace yokai {

namespace {

// A folder of its own, gone with all that is in it.
class OwnFolder {
public:
    OwnFolder()
    {
        std::string name = (std::filesystem::temp_directory_path() / "yokai-page-XXXXXX").string();
        if (!::mkdtemp(name.data()))
            throw Error(ErrorKind::Output, "no temporary file can be made in '{}'; make room there", std::filesystem::temp_directory_path().string());
        path_ = name;
    }
    OwnFolder(const OwnFolder&) = delete;
    OwnFolder& operator=(const OwnFolder&) = delete;
    ~OwnFolder()
    {
        std::error_code ignored;
        std::filesystem::remove_all(path_, ignored);
    }
    std::filesystem::path operator/(const std::string& name) const { return path_ / name; }

private:
    std::filesystem::path path_;
};

// Its exit code; ended when work is stopped or it takes unreasonably long.
int ran(std::vector<std::string> arguments, const Work& work)
{
    std::vector<char*> argv;
    for (std::string& a : arguments)
        argv.push_back(a.data());
    argv.push_back(nullptr);
    posix_spawn_file_actions_t quiet;
    posix_spawn_file_actions_init(&quiet);
    posix_spawn_file_actions_addopen(&quiet, STDIN_FILENO, "/dev/null", O_RDONLY, 0);
    posix_spawn_file_actions_addopen(&quiet, STDOUT_FILENO, "/dev/null", O_WRONLY, 0);
    posix_spawn_file_actions_addopen(&quiet, STDERR_FILENO, "/dev/null", O_WRONLY, 0);
    pid_t child = 0;
    const int started = ::posix_spawnp(&child, argv[0], &quiet, nullptr, argv.data(), environ);
    posix_spawn_file_actions_destroy(&quiet);
    if (started != 0)
        return 127;
    const auto end = [&] {
        ::kill(child, SIGKILL);
        ::waitpid(child, nullptr, 0);
    };
    constexpr auto patience = std::chrono::seconds(60);
    const auto begin = std::chrono::steady_clock::now();
    for (int status = 0;;) {
        if (const pid_t done = ::waitpid(child, &status, WNOHANG); done != 0)
            return done == child && WIFEXITED(status) ? WEXITSTATUS(status) : 1;
        if (work.stop.stop_requested() || std::chrono::steady_clock::now() - begin > patience) {
            end();
            work.check();
            return 1;
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
}

} // namespace

MadeOutside pdfByProgram(const Bytes& bytes, const std::string& ending, const std::function<std::vector<std::string>(const std::string&, const std::string&)>& command,
                         const Work& work)
{
    const OwnFolder folder;
    const std::filesystem::path from = folder / ("page" + ending), to = folder / "made.pdf";
    writeFile(from, std::string_view(reinterpret_cast<const char*>(bytes.data()), bytes.size()));
    const int code = ran(command(from.string(), to.string()), work);
    std::error_code none;
    MadeOutside out;
    out.isInstalled = code != 127;
    if (code == 0 && std::filesystem::exists(to, none))
        out.pdf = readFile(to);
    return out;
}

} // namespace yokai
