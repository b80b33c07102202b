#!/bin/bash
# Tries the array jobs on this one machine: starts Slurm's daemons with a configuration of their own in a new folder, renders a small
# turntable and a picture in bands with them, compares both with the same rendered at once, and stops the daemons again.
#   sudo ./try-here.sh CREATURE BONEMOSS_CLI
# Needs Debian's slurmctld, slurmd, slurm-client and munge, and root, since slurmd starts jobs for others.
set -euo pipefail

creature=$(realpath "$1") cli=$(realpath "$2") here=$(dirname "$(realpath "$0")")
work=$(mktemp -d /tmp/slurm-try.XXXXXX)
pids=()
stop() {
  for p in "${pids[@]}"; do kill "$p" 2>/dev/null || true; done
  wait 2>/dev/null || true
  rm -rf "$work"
}
trap stop EXIT
cd "$work"
mkdir state spool run

dd if=/dev/urandom of=munge.key bs=128 count=1 status=none
chmod 400 munge.key
munged --foreground --force --key-file="$work/munge.key" --socket="$work/run/munge.socket" --pid-file="$work/run/munged.pid" \
  --log-file="$work/munged.log" --seed-file="$work/munge.seed" 2>munged.err &
pids+=($!)

host=$(hostname -s)
cat >slurm.conf <<CONF
ClusterName=try
SlurmctldHost=$host(127.0.0.1)
AuthType=auth/munge
AuthInfo=socket=$work/run/munge.socket
CredType=cred/munge
SlurmUser=root
SlurmdUser=root
SlurmctldPort=16817
SlurmdPort=16818
SlurmctldPidFile=$work/run/slurmctld.pid
SlurmdPidFile=$work/run/slurmd.pid
StateSaveLocation=$work/state
SlurmdSpoolDir=$work/spool
SlurmctldLogFile=$work/slurmctld.log
SlurmdLogFile=$work/slurmd.log
ProctrackType=proctrack/linuxproc
TaskPlugin=task/none
SelectType=select/cons_tres
SelectTypeParameters=CR_CPU
ReturnToService=2
MpiDefault=none
SwitchType=switch/none
NodeName=$host NodeAddr=127.0.0.1 CPUs=$(nproc) State=UNKNOWN
PartitionName=all Nodes=$host Default=YES MaxTime=INFINITE State=UP
CONF
export SLURM_CONF=$work/slurm.conf
slurmctld -D -f "$SLURM_CONF" >slurmctld.out 2>&1 &
pids+=($!)
slurmd -D -f "$SLURM_CONF" >slurmd.out 2>&1 &
pids+=($!)
for _ in $(seq 60); do sinfo -h -o %t 2>/dev/null | grep -q idle && break; sleep 1; done
sinfo || { cat slurmctld.log slurmd.log; exit 1; }

export TURN=4 SIZE=160x100 SAMPLES=8
sbatch --wait --array=1-2 "$here/turntable.sbatch" "$creature" "$work/frames" "$cli"
sbatch --wait --array=1-3 "$here/picture.sbatch" "$creature" "$work/bands" "$cli"
cat ./*.log | grep -v '^\[' || true

"$cli" join bands/band-*.exr --out joined.png
"$cli" render "$creature" --view three-quarter --frames 1-4 --turn 4 --size 160x100 --samples 8 --out once.png
"$cli" render "$creature" --camera three-quarter --size 160x100 --samples 8 --out whole.exr
"$cli" join whole.exr --out whole.png
for f in 1 2 3 4; do cmp "frames/frame-000$f.png" "once-000$f.png"; done
cmp joined.png whole.png
echo "Slurm: 4 frames by 2 tasks and a picture by 3 have the same bits as at once."
