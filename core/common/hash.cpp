#include "common/hash.h"

#include <fmt/format.h>
#include <openssl/evp.h>

#include <array>
#include <fstream>
#include <memory>

namespace rasoir {

Result<std::string> sha256Of(const std::filesystem::path& path) {
    std::ifstream in(path, std::ios::binary);
    const std::unique_ptr<EVP_MD_CTX, decltype(&EVP_MD_CTX_free)> digest(EVP_MD_CTX_new(), EVP_MD_CTX_free);
    std::array<unsigned char, EVP_MAX_MD_SIZE> sum{};
    unsigned int length = 0;
    bool fine = in.is_open() && digest && EVP_DigestInit_ex(digest.get(), EVP_sha256(), nullptr) == 1;
    std::array<char, 1 << 16> buffer{};
    while (fine && in) {
        in.read(buffer.data(), buffer.size());
        fine = EVP_DigestUpdate(digest.get(), buffer.data(), static_cast<std::size_t>(in.gcount())) == 1;
    }
    fine = fine && !in.bad() && EVP_DigestFinal_ex(digest.get(), sum.data(), &length) == 1;
    if (!fine)
        return fail(ProblemKind::Storage, fmt::format("\"{}\" cannot be read.", path.filename().string()),
                    "Check that it exists and may be read.");
    std::string text;
    for (unsigned int k = 0; k < length; ++k) text += fmt::format("{:02x}", sum[k]);
    return text;
}

}  // namespace rasoir
