# Asks SpamAssassin, offline and with Debian's default rules, about each message file named on the command line. Writes one
# line of JSON for each: its file, its score, and the names of the rules it hit.
use strict;
use warnings;
use Mail::SpamAssassin;
use JSON::PP;

my $assassin = Mail::SpamAssassin->new({
  local_tests_only => 1,
  dont_copy_prefs => 1,
  userprefs_filename => '/dev/null',
  config_text => undef,
});
$assassin->compile_now(0);
for my $file (@ARGV) {
  open(my $in, '<:raw', $file) or die "$file: $!";
  local $/;
  my $message = $assassin->parse(<$in>);
  my $status = $assassin->check($message);
  print encode_json({ file => $file, score => $status->get_score() + 0, rules => [split /,/, $status->get_names_of_tests_hit()] }), "\n";
  $status->finish();
  $message->finish();
}
